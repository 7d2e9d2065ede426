import type { Attempt, Bench } from "../api/client";
import type { Action } from "../keys";
import { whiteAt, type Mode } from "../stage/compare";
import { Key } from "../ui/Key";
import type { Compare } from "./useCompare";

const MODES: { mode: Mode; action: Action; words: string }[] = [
  { mode: "wipe", action: "wipe", words: "wipe" },
  { mode: "beside", action: "beside", words: "beside" },
  { mode: "difference", action: "difference", words: "difference" },
];

/** What is compared, and how; by pointer what the keys do. */
export function CompareBar({
  compare,
  bench,
  attempt,
}: {
  compare: Compare;
  bench: Bench;
  attempt: Attempt;
}) {
  const { mode, other, turned, alone, beating } = compare;
  const hold = compare.hold;
  return (
    <>
      <span className="flex items-center gap-1 whitespace-nowrap">
        <TurnRound compare={compare} />
        <select
          className="quiet-field w-[4.9rem]"
          aria-label={turned ? "side B" : "side A"}
          value={other.attempt ?? ""}
          onChange={(event) =>
            compare.chooseOther(event.target.value ? Number(event.target.value) : null)
          }
        >
          <option value="">original</option>
          {bench.attempts
            .filter((one) => one.id !== attempt.id)
            .map((one) => (
              <option key={one.id} value={one.id}>
                attempt {one.number}
              </option>
            ))}
        </select>
        <Key action="nextA" />
      </span>
      <div className="segments" role="group" aria-label="Compare">
        <button
          type="button"
          aria-pressed={alone && !beating}
          onPointerDown={() => hold(true)}
          onPointerUp={() => hold(false)}
          onPointerLeave={() => hold(false)}
          onKeyDown={(event) => {
            if (event.key === " " || event.key === "Enter") hold(true);
          }}
          onKeyUp={() => hold(false)}
          onBlur={() => hold(false)}
        >
          hold A <Key action="swap" />
        </button>
        <button type="button" aria-pressed={beating} onClick={() => compare.setBeating(!beating)}>
          beat <Key action="beat" />
        </button>
        {MODES.map((one) => (
          <button
            key={one.mode}
            type="button"
            aria-pressed={mode === one.mode}
            onClick={() => compare.setMode(mode === one.mode ? "one" : one.mode)}
          >
            {one.words} <Key action={one.action} />
          </button>
        ))}
      </div>
    </>
  );
}

/** What the chosen way of comparing can be set to. */
export function CompareControls({ compare }: { compare: Compare }) {
  const { mode, wipe, measure, amplified, keys } = compare;
  return (
    <>
      {mode === "wipe" && (
        <span className="flex items-center gap-1">
          <button
            type="button"
            className="plain whitespace-nowrap px-2"
            onClick={() => keys.less?.(true)}
          >
            to A <Key action="less" />
          </button>
          <button
            type="button"
            className="plain whitespace-nowrap px-2"
            onClick={() => keys.more?.(true)}
          >
            to B <Key action="more" />
          </button>
          <button
            type="button"
            className="plain whitespace-nowrap px-2"
            onClick={() => keys.turn?.(true)}
          >
            {wipe.angle}° <Key action="turn" />
          </button>
        </span>
      )}
      {mode === "difference" && (
        <span className="flex items-center gap-1">
          <button
            type="button"
            className="plain whitespace-nowrap px-2"
            aria-label="amplify less"
            onClick={() => keys.less?.(true)}
          >
            − <Key action="less" />
          </button>
          <span className="w-[34px] text-center tabular-nums">× {amplified}</span>
          <button
            type="button"
            className="plain whitespace-nowrap px-2"
            aria-label="amplify more"
            onClick={() => keys.more?.(true)}
          >
            + <Key action="more" />
          </button>
          <button
            type="button"
            className="plain whitespace-nowrap px-2"
            onClick={() => keys.turn?.(true)}
          >
            {measure} <Key action="turn" />
          </button>
          {measure === "CIEDE2000" && <Scale white={whiteAt(amplified)} />}
        </span>
      )}
    </>
  );
}

/** Black to white, and the CIEDE2000 at its ends. */
function Scale({ white }: { white: number }) {
  return (
    <span className="flex items-center gap-1 small tabular-nums">
      0
      <span
        className="inline-block h-[12px] w-[36px]"
        style={{
          background: "linear-gradient(to right, #000, #fff)",
          border: "1px solid var(--line)",
        }}
      />
      {white.toLocaleString(undefined, { maximumFractionDigits: 1 })}
    </span>
  );
}

/** A becomes B and B becomes A. */
export function TurnRound({ compare }: { compare: Compare }) {
  const { turned } = compare;
  return (
    <button
      type="button"
      className="quiet"
      aria-pressed={turned}
      aria-label={turned ? "B beside A: turned round" : "A beside B: turn round"}
      onClick={compare.turnRound}
    >
      {turned ? "B" : "A"} <Key action="turnRound" />
    </button>
  );
}
