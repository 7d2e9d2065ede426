import { useEffect, useState } from "react";

/** People look first: so much of a shot has to have been seen before what the machine found is shown. */
const SEEN = 0.9;

/** Whether an attempt was seen through in this visit, or its findings were asked for. `shown`: the attempt that is on the screen now. */
export function useSeenThrough(
  attempt: number | null,
  frame: number,
  frames: number,
  shown: number | null,
) {
  const [seen, setSeen] = useState<ReadonlyMap<number, ReadonlySet<number>>>(new Map());
  const [asked, setAsked] = useState<ReadonlySet<number>>(new Set());
  useEffect(() => {
    if (shown === null) return;
    setSeen((old) => {
      const had = old.get(shown);
      if (had?.has(frame)) return old;
      return new Map(old).set(shown, new Set(had).add(frame));
    });
  }, [shown, frame]);
  const count = attempt === null ? 0 : (seen.get(attempt)?.size ?? 0);
  return {
    open: attempt !== null && (asked.has(attempt) || count >= frames * SEEN),
    show: () => {
      if (attempt !== null) setAsked((old) => new Set(old).add(attempt));
    },
  };
}
