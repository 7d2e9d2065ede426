import type { Bench, Cell, Ruling } from "../api/client";
import type { Action } from "../keys";
import { atSize } from "./useRuling";
import { Key } from "../ui/Key";
import { StateShape, type CellState } from "../ui/marks";

export const RULINGS: { ruling: Ruling; action: Action; words: string }[] = [
  { ruling: "passes", action: "passes", words: "passes" },
  { ruling: "passes at size", action: "passesAtSize", words: "at size" },
  { ruling: "rework", action: "rework", words: "rework" },
  { ruling: "rebuild", action: "rebuild", words: "rebuild" },
];

type Props = {
  bench: Bench;
  cell: Cell;
  mayRule: boolean;
  ready: boolean;
  hidden?: boolean;
  busy: boolean;
  trouble: string | null;
  asking: boolean;
  last: { words: string } | null;
  onRule: (ruling: Ruling) => void;
  onTakeBack: () => void;
  /** Missing where words are put elsewhere. */
  onWords?: () => void;
  /** Missing where one goes on elsewhere. */
  onNext?: () => void;
};

/** Verdicts with one key each; the last one stays visible beside the key that takes it back. */
export function RulingBar({
  bench,
  cell,
  mayRule,
  ready,
  hidden = false,
  busy,
  trouble,
  asking,
  last,
  onRule,
  onTakeBack,
  onWords,
  onNext,
}: Props) {
  const region = bench.regions.find((one) => one.id === cell.region);
  const attempt = bench.attempts.find((one) => one.id === cell.attempt);
  const size = atSize(bench, cell);
  const passing = cell.passes_at
    .map((id) => bench.sizes.find((one) => one.id === id)?.name)
    .filter(Boolean)
    .join(", ");
  return (
    <div
      className="rule-top flex min-h-[50px] flex-wrap items-center gap-2 px-3 py-[3px]"
      role="group"
      aria-label="Ruling"
    >
      <span className="flex min-w-[12rem] flex-1 items-center gap-2">
        {trouble ? (
          <strong role="alert">{trouble}</strong>
        ) : asking ? (
          <strong role="alert">
            Never seen at 100 % for {size?.name}. The same key again passes it all the same.
          </strong>
        ) : last ? (
          <span role="status">{last.words}</span>
        ) : hidden ? (
          <span>
            Attempt {attempt?.number} is not on the stage; hold <Key action="swap" /> and rule while
            it is.
          </span>
        ) : (
          <span>
            region {region?.number} in attempt {attempt?.number}
            {cell.verdict ? `: ${cell.verdict.ruling}, ${cell.verdict.person}` : ""}
          </span>
        )}
        {last && mayRule && (
          <button type="button" className="plain shrink-0" onClick={onTakeBack} disabled={busy}>
            take back <Key action="takeBack" />
          </button>
        )}
        {onWords && (last ?? cell.verdict) && mayRule && !trouble && !asking && (
          <button type="button" className="plain shrink-0" onClick={onWords} disabled={busy}>
            words <Key action="words" />
          </button>
        )}
      </span>
      {mayRule &&
        RULINGS.map(({ ruling, action, words }) => (
          <button
            key={ruling}
            type="button"
            className="ruling"
            aria-disabled={!ready || busy}
            title={
              ruling === "passes at size"
                ? passing
                  ? `nothing fails at ${passing}`
                  : `no size is let pass by the findings; this means ${size?.name}`
                : undefined
            }
            onClick={() => {
              if (ready && !busy) onRule(ruling);
            }}
          >
            <StateShape state={ruling as CellState} />{" "}
            {ruling === "passes at size" && <span className="sr-only">passes </span>}
            {words}
            {ruling === "passes at size" &&
              cell.passes_at.length > 0 &&
              cell.passes_at.length < bench.sizes.length &&
              `: ${size?.name}`}{" "}
            <Key action={action} />
          </button>
        ))}
      {!mayRule && <span>A supervisor rules here.</span>}
      {onNext && (
        <button type="button" className="ruling" onClick={onNext}>
          next <Key action="next" />
        </button>
      )}
    </div>
  );
}
