import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Attempt, Bench } from "../api/client";
import { changesQuery } from "../api/queries";
import { inWords } from "./arrange";
import { Dialog } from "../ui/Dialog";
import { KindPicture } from "../ui/marks";
import { OutcomeShape } from "../ui/outcome";

/** What an attempt is compared with unless somebody says otherwise: side A, what it was made from, or the one before it. */
export function comparedWith(
  bench: Bench,
  attempt: Attempt,
  sideA: number | null,
): Attempt | undefined {
  const others = bench.attempts.filter((one) => one.id !== attempt.id);
  return (
    others.find((one) => one.id === sideA) ??
    others.find((one) => attempt.made_from.includes(one.id)) ??
    others.filter((one) => one.number < attempt.number).at(-1) ??
    others[0]
  );
}

type Props = {
  bench: Bench;
  attempt: Attempt;
  sideA: number | null;
  open: boolean;
  onClose: () => void;
};

/** Settings side by side; flaws fixed, still there, worse, new; what changed outside. */
export function ChangesDialog({ bench, attempt, sideA, open, onClose }: Props) {
  return (
    <Dialog open={open} onClose={onClose} title={`What changed in attempt ${attempt.number}`} wide>
      {open && <Changes bench={bench} attempt={attempt} sideA={sideA} />}
    </Dialog>
  );
}

function Changes({ bench, attempt, sideA }: Omit<Props, "open" | "onClose">) {
  const [chosen, setChosen] = useState<number | null>(null);
  const before =
    bench.attempts.find((one) => one.id === chosen && one.id !== attempt.id) ??
    comparedWith(bench, attempt, sideA);
  const states = [before, attempt]
    .map((one) => `${one?.check_of?.id ?? ""}${one?.check_of?.state ?? ""}`)
    .join();
  const changes = useQuery({
    ...changesQuery(before?.id ?? 0, attempt.id, states),
    enabled: before !== undefined,
  });
  if (!before) return <p>This is the only attempt: there is nothing to compare it with.</p>;
  const ancestry = attempt.made_from
    .map((id) => bench.attempts.find((one) => one.id === id)?.number)
    .filter(Boolean);
  return (
    <div>
      <p className="mt-0 flex items-center gap-2">
        <label className="flex items-center gap-2">
          compared with
          <select
            className="field"
            value={before.id}
            onChange={(event) => setChosen(Number(event.target.value))}
          >
            {bench.attempts
              .filter((one) => one.id !== attempt.id)
              .map((one) => (
                <option key={one.id} value={one.id}>
                  attempt {one.number}, {one.method}
                </option>
              ))}
          </select>
        </label>
        {ancestry.length > 0 && (
          <span>
            attempt {attempt.number} was made from {ancestry.join(" and ")}
          </span>
        )}
      </p>
      {changes.isPending && <p role="status">Comparing …</p>}
      {changes.isError && (
        <p role="alert">
          {changes.error.message}{" "}
          <button type="button" className="plain" onClick={() => void changes.refetch()}>
            try again
          </button>
        </p>
      )}
      {changes.data && (
        <>
          <table className="w-full border-collapse text-left">
            <thead>
              <tr>
                <th scope="col">setting</th>
                <th scope="col">attempt {before.number}</th>
                <th scope="col">attempt {attempt.number}</th>
              </tr>
            </thead>
            <tbody>
              <tr className="rule-top">
                <th scope="row" className="py-1 font-normal">
                  method
                </th>
                <td>
                  {before.method}, {before.kind}
                </td>
                <td>
                  {attempt.method}, {attempt.kind}
                </td>
              </tr>
              {changes.data.settings.map((one) => (
                <tr key={one.name} className="rule-top">
                  <th scope="row" className="py-1 font-normal">
                    {one.name}
                  </th>
                  <td>{inWords(one.before) || "not set"}</td>
                  <td>{inWords(one.after) || "not set"}</td>
                </tr>
              ))}
              {changes.data.settings.length === 0 && (
                <tr className="rule-top">
                  <td colSpan={3} className="py-1">
                    No other setting differs, or none was recorded.
                  </td>
                </tr>
              )}
            </tbody>
          </table>
          <h3 className="mt-3 text-[0.9375rem]">region by region</h3>
          {!changes.data.judged && (
            <p className="m-0">Both must have been checked before anything can be compared.</p>
          )}
          <ul className="m-0 list-none p-0">
            {changes.data.regions.map((one) => (
              <li key={one.region} className="rule-top flex gap-3 py-1">
                <strong className="w-[170px]">
                  {one.number} {one.name}
                </strong>
                <span className="flex flex-1 flex-wrap gap-x-4">
                  {one.word === null
                    ? "nothing found, then or now"
                    : one.kinds.map((row, i) => (
                        <span key={i} className="flex items-center gap-1">
                          <KindPicture kind={row.kind} /> {row.kind}:{" "}
                          <OutcomeShape word={row.word} /> {row.word}
                        </span>
                      ))}
                </span>
              </li>
            ))}
          </ul>
          <h3 className="mt-3 text-[0.9375rem]">outside every region</h3>
          <p className="m-0 flex flex-wrap gap-x-4">
            {changes.data.outside.length === 0
              ? "nothing found, then or now"
              : changes.data.outside.map((row, i) => (
                  <span key={i} className="flex items-center gap-1">
                    <KindPicture kind={row.kind} /> {row.kind}: <OutcomeShape word={row.word} />{" "}
                    {row.word}
                  </span>
                ))}
          </p>
        </>
      )}
    </div>
  );
}
