import { useCallback, useEffect, useLayoutEffect, useRef, useState } from "react";
import { SPEEDS, frameAt, skipped, whole, within, type Range } from "./clock";

/** What plays: a frame, a range that goes round and round, a speed. A frame that is not there yet is waited for, and nothing is left out without
 * being counted. */
export function usePlayer(
  frames: number,
  rate: number,
  /** Whether a frame can be shown now; asks for what comes after it. */
  ready: (frame: number, range: Range) => boolean,
) {
  const [frame, setFrame] = useState(0);
  const [playing, setPlaying] = useState(false);
  const [speed, setSpeed] = useState<number>(1);
  const [given, setRange] = useState<Range | null>(null);
  const [left, setLeft] = useState(0);
  const range = given ?? whole(frames);
  const { first, last } = range;
  const asked = useRef(ready);
  const shown = useRef(frame);
  useLayoutEffect(() => {
    asked.current = ready;
    shown.current = frame;
  });
  useEffect(() => {
    if (!playing) return undefined;
    const round = { first, last };
    let start = within(shown.current, round);
    let began = performance.now();
    let before = start;
    let next = requestAnimationFrame(function tick(now) {
      next = requestAnimationFrame(tick);
      const wanted = frameAt(start, Math.max(0, now - began) / 1000, rate * speed, round);
      if (wanted === before && wanted !== start) return;
      if (!asked.current(wanted, round)) {
        // Wait where it is, and go on from there.
        start = before;
        began = now;
        asked.current(before, round);
        return;
      }
      const missing = skipped(before, wanted, round);
      if (wanted !== before && missing > 0) setLeft((count) => count + missing);
      before = wanted;
      setFrame(wanted);
    });
    return () => cancelAnimationFrame(next);
  }, [playing, first, last, rate, speed]);

  const goTo = useCallback(
    (to: number) => {
      setPlaying(false);
      setFrame(Math.min(frames - 1, Math.max(0, to)));
    },
    [frames],
  );
  return {
    frame,
    playing,
    speed,
    range,
    ranged: given !== null,
    /** Frames that were not shown while it last played. */
    left,
    goTo,
    setRange,
    setSpeed,
    step: (by: number) => goTo(frame + by),
    play: (on: boolean) => {
      if (on) {
        setLeft(0);
        setFrame(within(frame, range));
      }
      setPlaying(on);
    },
    nextSpeed: () => setSpeed((now) => SPEEDS[(SPEEDS.indexOf(now as 1) + 1) % SPEEDS.length] ?? 1),
  };
}
export type Player = ReturnType<typeof usePlayer>;
