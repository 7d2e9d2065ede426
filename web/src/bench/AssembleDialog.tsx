import { useState } from "react";
import type { Bench } from "../api/client";
import { useAssemble } from "../api/queries";
import { cellAt } from "../ledger/walk";
import { Dialog } from "../ui/Dialog";
import { StateShape, type CellState } from "../ui/marks";

/** Which attempt each region comes from unless somebody says otherwise: its holder, or the one that ranks best. */
export function suggested(bench: Bench): Record<number, number> {
  return Object.fromEntries(
    bench.regions.flatMap((region) => {
      const from = region.holder ?? region.order[0] ?? bench.attempts[0]?.id;
      return from === undefined ? [] : [[region.id, from]];
    }),
  );
}

type Props = {
  bench: Bench;
  open: boolean;
  onClose: () => void;
  onShow: (attempt: number) => void;
};

/** The best of several: an attempt for each region, put together by the machine as a new attempt. */
export function AssembleDialog({ bench, open, onClose, onShow }: Props) {
  return (
    <Dialog open={open} onClose={onClose} title="Put together from several attempts" wide>
      {open && <Form bench={bench} onClose={onClose} onShow={onShow} />}
    </Dialog>
  );
}

function Form({ bench, onClose, onShow }: Omit<Props, "open">) {
  const [chosen, setChosen] = useState(() => suggested(bench));
  const [asked, setAsked] = useState<number | null>(null);
  const assemble = useAssemble(bench.id);
  const mayRule = bench.role === "supervisor";
  const several = new Set(Object.values(chosen)).size > 1;
  const state =
    bench.assembly &&
    (bench.assembly.id === asked ||
      bench.assembly.state === "waiting" ||
      bench.assembly.state === "running")
      ? bench.assembly
      : null;
  const running = state?.state === "waiting" || state?.state === "running";
  const made =
    state?.state === "done" ? bench.attempts.find((one) => one.id === state.attempt) : undefined;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (several && !running)
          assemble.mutate(
            Object.entries(chosen).map(([region, attempt]) => ({
              region: Number(region),
              attempt,
            })),
            { onSuccess: (row) => setAsked(row.id) },
          );
      }}
    >
      <p className="mt-0">
        Joins run where the attempts show the same; a change of tone is taken out first. What is put
        together is a new attempt and is checked like any other; passes come over where every pixel
        is the same.
      </p>
      {bench.regions.map((region) => (
        <label key={region.id} className="rule-top flex items-center gap-3 py-1">
          <strong className="w-[200px]">
            {region.number} {region.name}
          </strong>
          <select
            className="field flex-1"
            value={chosen[region.id]}
            disabled={!mayRule || running}
            onChange={(event) =>
              setChosen((old) => ({ ...old, [region.id]: Number(event.target.value) }))
            }
          >
            {region.order.map((id, place) => {
              const attempt = bench.attempts.find((one) => one.id === id),
                cell = cellAt(bench, region.id, id);
              return (
                attempt && (
                  <option key={id} value={id}>
                    {place + 1}. attempt {attempt.number}, {attempt.method}: {cell?.state}
                    {cell?.worst_word ? `, ${cell.worst_kind} ${cell.worst_word}` : ""}
                  </option>
                )
              );
            })}
          </select>
          <StateShape
            state={
              (cellAt(bench, region.id, chosen[region.id] ?? 0)?.state ?? "undecided") as CellState
            }
          />
        </label>
      ))}
      {running && (
        <p role="status">
          Being put together …{" "}
          <progress
            max={1}
            value={state?.progress ?? 0}
            className="h-2 w-[160px]"
            aria-label="putting together"
            style={{ accentColor: "#000" }}
          />
        </p>
      )}
      {state?.state === "refused" && (
        <p role="alert">
          <strong>It was not put together: {state.reason}.</strong> Nothing was changed; choose
          another attempt for that region.
        </p>
      )}
      {assemble.isError && (
        <p role="alert">
          <strong>{assemble.error.message}</strong>
        </p>
      )}
      {made && (
        <p role="status">
          Attempt {made.number} stands.{" "}
          <button
            type="button"
            className="plain"
            onClick={() => {
              onShow(made.id);
              onClose();
            }}
          >
            show it
          </button>
        </p>
      )}
      {!several && (
        <p className="m-0 small">
          All regions come from one attempt: choose another one for some region.
        </p>
      )}
      {mayRule && (
        <p className="mb-0 flex gap-2">
          <button type="submit" className="plain" aria-disabled={!several || running}>
            put together
          </button>
          <button type="button" className="plain" onClick={onClose}>
            close
          </button>
        </p>
      )}
    </form>
  );
}
