import { useEffect } from "react";
import type { Step } from "./state";
import type { Compare } from "./useCompare";

type Stage = { settled: boolean; zoomed: number; image: number };

/** Take note of which sides of a cell were seen, once they are drawn. */
export function useSides(
  cell: number,
  image: number,
  stage: Stage,
  compare: Compare,
  shown: readonly number[],
  change: (step: Step) => void,
): void {
  const actual = stage.settled && stage.zoomed >= 0.999 && shown.includes(image);
  const { mode, judgedSeen } = compare;
  const original = compare.other.attempt === null;
  useEffect(() => {
    if (!stage.settled || mode === "difference") return;
    if (original && (mode !== "one" || !judgedSeen))
      change({ type: "saw", cell, what: { original: true } });
    if (judgedSeen)
      change({
        type: "saw",
        cell,
        what: actual ? { attempt: true, actual: true } : { attempt: true },
      });
  }, [stage.settled, actual, cell, original, judgedSeen, mode, change]);
}
