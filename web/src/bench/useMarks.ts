import { useMemo } from "react";
import type { Attempt, Region } from "../api/client";
import { drawn, outlined, ringed } from "../stage/evidence";
import type { State } from "./state";
import type { Findings } from "./useFindings";
import type { At } from "./useSpot";

type Beyond = NonNullable<Attempt["check_of"]>["outside"][number];
const none: never[] = [];

/** What is drawn on the picture now: one finding's evidence, a person's mark, or the outline. */
export function useMarks(
  region: Region,
  findings: Findings,
  state: State,
  outline: number[][] | null,
  outside: Beyond | null,
  hidden: boolean,
  pinned: At | null,
) {
  const { finding, uncovered, detail } = findings;
  const own = detail.data?.own.find((one) => one.id === state.own);
  return useMemo(() => {
    if (state.bare) return none;
    const pin = pinned ? [ringed(pinAround(pinned))] : none;
    if (hidden) return pin;
    const shown = outline
      ? [ringed(outline)]
      : own
        ? [ringed(own.polygon)]
        : outside
          ? [ringed(outside.polygon)]
          : !uncovered
            ? none
            : finding
              ? drawn(finding)
              : [outlined(region)];
    // A pinned spot is a person's own mark: it stays whatever is seen.
    return [...shown, ...pin];
  }, [state.bare, hidden, outline, own, outside, uncovered, finding, region, pinned]);
}

const pinAround = ([x, y]: At) => [
  [x - 4, y - 4],
  [x + 5, y - 4],
  [x + 5, y + 5],
  [x - 4, y + 5],
];
