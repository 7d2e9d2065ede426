import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Attempt, Bench, Region } from "../api/client";
import {
  methodsQuery,
  trialsQuery,
  useTrials,
  type MethodDescribed,
  type Trial,
} from "../api/trials";
import { tallyQuery, type Tally } from "../api/tally";
import { nextWords } from "../tally/words";
import { Dialog } from "../ui/Dialog";
import { Key } from "../ui/Key";
import { OutsidePart } from "./OutsidePart";
import { boxAround, chosenRuns, offsetTo, type Common, type Own } from "./trials";
import type { At } from "./useSpot";

type Props = {
  bench: Bench;
  region: Region;
  attempt: Attempt;
  pinned: At | null;
  /** Boxes that repeats in this cell were taken from. */
  sources: number[][];
  open: boolean;
  onClose: () => void;
  onShow: (attempt: number) => void;
};

/** Methods tried on one region from within; each run becomes an attempt. */
export function TrialDialog(props: Props) {
  const { bench, region, open, onClose } = props;
  return (
    <Dialog open={open} onClose={onClose} title={`A trial on ${region.number} ${region.name}`} wide>
      {open && (
        <>
          {bench.role === "supervisor" ? (
            <Form {...props} />
          ) : (
            <p className="mt-0">Only a supervisor of this job runs trials.</p>
          )}
        </>
      )}
    </Dialog>
  );
}

function Form({ bench, region, attempt, pinned, sources, onClose, onShow }: Props) {
  const methods = useQuery(methodsQuery).data ?? [];
  // What people ruled so far, in all jobs of theirs.
  const tally = useQuery(tallyQuery({ job: null, days: null, by: "method" })).data;
  const heldOf = (name: string) =>
    tally?.rows.find((row) => row.name === name && row.backdrop === region.backdrop);
  const trials = useQuery(trialsQuery(bench.id)).data ?? [];
  const { ask, cancel } = useTrials(bench.id);
  const [base, setBase] = useState<number | null>(null);
  const [own, setOwn] = useState<Record<string, Own>>({});
  const [common, setCommon] = useState<Common>({
    grow: 2,
    feather: 0,
    grain: true,
    tone: false,
    opacity: 1,
  });
  const [fromPinned, setFromPinned] = useState(false);
  const [keepOut, setKeepOut] = useState(sources.length > 0);
  const [also, setAlso] = useState<number[]>([]);
  const fits = (one: MethodDescribed) =>
    region.backdrop !== null && one.backdrops.includes(region.backdrop);
  const ordered = [...methods].sort((one, other) => Number(fits(other)) - Number(fits(one)));
  const runs = chosenRuns(methods, own, common);
  const show = (number: number) => {
    const made = bench.attempts.find((one) => one.number === number);
    if (made) {
      onShow(made.id);
      onClose();
    }
  };
  const ready = (number: number) => bench.attempts.some((one) => one.number === number);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (runs.length > 0 && !ask.isPending)
          ask.mutate({
            region: region.id,
            also,
            base,
            runs,
            keep_out: keepOut ? sources : [],
            take_from: fromPinned && pinned ? [boxAround(region.bbox, pinned, bench.original)] : [],
          });
      }}
    >
      <ul className="m-0 list-none p-0" aria-label="Methods">
        {ordered.map((one) => (
          <MethodRow
            key={one.name}
            method={one}
            fits={fits(one)}
            held={heldOf(one.name)}
            own={own[one.name]}
            offset={pinned ? offsetTo(region.bbox, pinned) : null}
            pinned={pinned}
            onChange={(now) =>
              setOwn((old) => {
                const others = Object.entries(old).filter(([name]) => name !== one.name);
                return Object.fromEntries(now ? [...others, [one.name, now]] : others);
              })
            }
          />
        ))}
      </ul>
      <fieldset className="rule-top m-0 flex flex-wrap items-center gap-x-4 gap-y-1 border-x-0 border-b-0 px-0 py-2">
        <legend className="sr-only">Settings of all</legend>
        <label className="flex items-center gap-2">
          made from
          <select
            className="field"
            value={base ?? ""}
            onChange={(event) => setBase(event.target.value ? Number(event.target.value) : null)}
          >
            <option value="">the original</option>
            <option value={attempt.id}>attempt {attempt.number}</option>
          </select>
        </label>
        <Pixels
          words="outline grown by"
          value={common.grow}
          least={-50}
          onChange={(grow) => setCommon({ ...common, grow })}
        />
        <Pixels
          words="feather"
          value={common.feather}
          least={0}
          onChange={(feather) => setCommon({ ...common, feather })}
        />
        <label className="flex items-center gap-1">
          opacity
          <input
            className="field w-16"
            type="number"
            min={5}
            max={100}
            step={5}
            value={Math.round(100 * common.opacity)}
            onChange={(event) =>
              setCommon({ ...common, opacity: Number(event.target.value) / 100 })
            }
          />
          %
        </label>
        <Tick
          words="its surroundings' grain"
          checked={common.grain}
          onChange={(grain) => setCommon({ ...common, grain })}
        />
        <Tick
          words="its surroundings' tone"
          checked={common.tone}
          onChange={(tone) => setCommon({ ...common, tone })}
        />
        {pinned && (
          <Tick
            words="only from around the pinned spot"
            checked={fromPinned}
            onChange={setFromPinned}
          />
        )}
        {sources.length > 0 && (
          <Tick
            words="nothing from where a repeat came from"
            checked={keepOut}
            onChange={setKeepOut}
          />
        )}
      </fieldset>
      <Further regions={bench.regions} first={region} chosen={also} onChange={setAlso} />
      <p className="m-0 flex items-center gap-3 py-1">
        <button type="submit" className="plain" aria-disabled={runs.length === 0 || ask.isPending}>
          run {runs.reduce((sum, one) => sum + (one.takes ?? 1), 0) || ""}
        </button>
        <span className="small">
          {also.length > 0
            ? `Each run works ${also.length + 1} regions in one attempt, small distinctive things first.`
            : "Each run becomes an attempt in the ledger and is examined like any other."}
        </span>
        {ask.isError && <strong role="alert">{ask.error.message}</strong>}
      </p>
      <OutsidePart
        bench={bench}
        region={region}
        attempt={attempt}
        base={base}
        onShow={show}
        ready={ready}
      />
      <Runs trials={trials} onCancel={(id) => cancel.mutate(id)} onShow={show} ready={ready} />
    </form>
  );
}

/** Which other regions of the picture a run works too, in the same attempt. */
function Further({
  regions,
  first,
  chosen,
  onChange,
}: {
  regions: readonly Region[];
  first: Region;
  chosen: number[];
  onChange: (chosen: number[]) => void;
}) {
  const others = regions.filter((one) => one.id !== first.id);
  if (others.length === 0) return null;
  return (
    <fieldset className="m-0 flex flex-wrap items-center gap-x-4 gap-y-1 border-0 p-0 py-1">
      <legend className="sr-only">Further regions</legend>
      <span>in the same attempt also</span>
      {others.map((one) => (
        <Tick
          key={one.id}
          words={`${one.number} ${one.name}`}
          checked={chosen.includes(one.id)}
          onChange={(on) =>
            onChange(on ? [...chosen, one.id] : chosen.filter((other) => other !== one.id))
          }
        />
      ))}
    </fieldset>
  );
}

function Tick({
  words,
  checked,
  onChange,
}: {
  words: string;
  checked: boolean;
  onChange: (checked: boolean) => void;
}) {
  return (
    <label className="flex items-center gap-1">
      <input
        type="checkbox"
        checked={checked}
        onChange={(event) => onChange(event.target.checked)}
      />
      {words}
    </label>
  );
}

function Pixels({
  words,
  value,
  least,
  onChange,
}: {
  words: string;
  value: number;
  least: number;
  onChange: (value: number) => void;
}) {
  return (
    <label className="flex items-center gap-1">
      {words}
      <input
        className="field w-16"
        type="number"
        min={least}
        max={200}
        value={value}
        onChange={(event) => onChange(Number(event.target.value))}
      />
      px
    </label>
  );
}

/** One method: what it does, and what it asks once it is chosen. */
function MethodRow({
  method,
  fits,
  held,
  own,
  offset,
  pinned,
  onChange,
}: {
  method: MethodDescribed;
  fits: boolean;
  /** How often it held on this ground. */
  held: Tally["rows"][number] | undefined;
  own: Own | undefined;
  offset: [number, number] | null;
  pinned: At | null;
  onChange: (own: Own | null) => void;
}) {
  const needsSpot = method.asks.some((one) => one.kind === "offset");
  const start = (): Own => ({
    takes: method.takes ? 3 : 1,
    settings: Object.fromEntries(
      method.asks.flatMap((one) =>
        one.kind === "offset" ? [[one.name, offset]] : [[one.name, one.default]],
      ),
    ),
  });
  return (
    <li className="rule-top flex flex-wrap items-baseline gap-x-3 gap-y-1 py-1">
      <label className="flex min-w-[14rem] items-center gap-2">
        <input
          type="checkbox"
          checked={own !== undefined}
          disabled={needsSpot && offset === null}
          onChange={(event) => onChange(event.target.checked ? start() : null)}
        />
        <strong>{method.name}</strong>
      </label>
      <span className="min-w-0 flex-1">
        {method.words}
        {fits && "; worth a trial on this ground"}
        {held && `; ${nextWords(method.name, held.backdrop, held)}`}
      </span>
      {needsSpot && (
        <span className="small">
          {pinned ? (
            `from ${pinned[0]}, ${pinned[1]}`
          ) : (
            <>
              pin a spot first <Key action="pin" />
            </>
          )}
        </span>
      )}
      {own && (
        <span className="flex w-full flex-wrap items-center gap-3 pl-6 small">
          {method.takes && (
            <label className="flex items-center gap-1">
              takes
              <input
                className="field w-14"
                type="number"
                min={1}
                max={5}
                value={own.takes}
                onChange={(event) => onChange({ ...own, takes: Number(event.target.value) })}
              />
            </label>
          )}
          {method.asks
            .filter((one) => one.kind !== "offset")
            .map((one) =>
              one.kind === "switch" ? (
                <Tick
                  key={one.name}
                  words={one.words}
                  checked={own.settings[one.name] === true}
                  onChange={(value) =>
                    onChange({ ...own, settings: { ...own.settings, [one.name]: value } })
                  }
                />
              ) : (
                <label key={one.name} className="flex items-center gap-1">
                  {one.words}
                  <input
                    className="field w-20"
                    type="number"
                    step={one.kind === "number" ? 0.05 : 1}
                    min={one.low}
                    max={one.high || undefined}
                    value={Number(own.settings[one.name] ?? 0)}
                    onChange={(event) =>
                      onChange({
                        ...own,
                        settings: { ...own.settings, [one.name]: Number(event.target.value) },
                      })
                    }
                  />
                  {one.kind === "pixels" && "px"}
                </label>
              ),
            )}
        </span>
      )}
    </li>
  );
}

/** How far each run is. */
function Runs({
  trials,
  onCancel,
  onShow,
  ready,
}: {
  trials: Trial[];
  onCancel: (id: number) => void;
  onShow: (attempt: number) => void;
  ready: (attempt: number) => boolean;
}) {
  if (trials.length === 0) return null;
  return (
    <section className="rule-top py-2" aria-label="Runs">
      <table className="w-full border-collapse">
        <tbody>
          {trials.map((one) => (
            <tr key={one.id} className="align-baseline" data-trial={one.id} data-state={one.state}>
              <th scope="row" className="py-0.5 pr-3 text-left font-normal">
                {one.method}
                {one.settings.seed !== undefined && `, take ${Number(one.settings.seed)}`}
                {one.regions > 1 && `, ${one.regions} regions`}
              </th>
              <td className="pr-3 small">
                from {one.made_from === null ? "the original" : `attempt ${one.made_from}`}
              </td>
              <td className="pr-3">
                {one.state === "waiting" || one.state === "running" ? (
                  <span className="flex items-center gap-2">
                    <progress
                      className="h-[8px] w-[100px]"
                      value={one.progress}
                      aria-label={`${one.method}: how far`}
                    />
                    <span className="small">{one.words || one.state}</span>
                  </span>
                ) : one.state === "failed" ? (
                  <span role="alert">could not: {one.reason}</span>
                ) : one.state === "cancelled" ? (
                  "cancelled"
                ) : (
                  `attempt ${one.attempt}`
                )}
              </td>
              <td className="text-right">
                {(one.state === "waiting" || one.state === "running") && (
                  <button type="button" className="quiet" onClick={() => onCancel(one.id)}>
                    cancel
                  </button>
                )}
                {one.attempt !== null && ready(one.attempt) && (
                  <button
                    type="button"
                    className="quiet"
                    onClick={() => onShow(one.attempt as number)}
                  >
                    show it
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
