import { useEffect, useMemo, useState } from "react";
import type { Shot } from "../api/shots";
import { ahead, shownBy, type Range } from "./clock";
import { Frames } from "./frames";
import type { Side } from "./paint";

/** Frames that are decoded ahead of what is shown. */
const AHEAD = 14;

/** Side A and side B: null is the original, otherwise an attempt's row. */
export type Sides = { a: number | null; b: number | null };

export function sideWords(shot: Shot, side: number | null): string {
  const attempt = shot.attempts.find((one) => one.id === side);
  return attempt ? `attempt ${attempt.number}` : "original";
}

/** The frames of what is compared, decoded ahead. */
export function useSides(shot: Shot, sides: Sides) {
  const attemptOf = (side: number | null) => shot.attempts.find((one) => one.id === side);
  const footageOf = (side: number | null) => attemptOf(side)?.footage ?? shot.original;
  const playable = (side: number | null) => (footageOf(side).ready ? footageOf(side).id : null);
  const [footageA, footageB] = [playable(sides.a), playable(sides.b)];
  const a = useFrames(footageA);
  const b = useFrames(footageB);
  const [, setArrived] = useState(0);
  const [error, setError] = useState<Error | null>(null);
  const found = { a, b };
  const shows = (side: "a" | "b") => attemptOf(sides[side])?.check?.shows ?? [];
  const at = (side: "a" | "b", frame: number) =>
    sides[side] === null ? frame : shownBy(shows(side), frame);

  const want = (side: "a" | "b", frame: number) => {
    const number = at(side, frame);
    const frames = found[side];
    if (number === null || frames === null) return;
    if (frames.peek(number)) return;
    frames.get(number).then(
      () => {
        setError(null);
        setArrived((count) => count + 1);
      },
      (why: Error) => setError(why),
    );
  };
  /** Whether both sides have a frame, or have none to show; what follows is asked for. */
  const ready = (frame: number, range: Range): boolean => {
    for (const number of ahead(frame, AHEAD, range)) {
      want("a", number);
      want("b", number);
    }
    return (["a", "b"] as const).every((side) => {
      const number = at(side, frame);
      return number === null || found[side] === null || found[side].peek(number) !== undefined;
    });
  };
  const sideAt = (side: "a" | "b", frame: number): Side => {
    const number = at(side, frame);
    const bitmap = number === null ? undefined : found[side]?.peek(number);
    return bitmap ? { bitmap, words: sideWords(shot, sides[side]) } : null;
  };
  return {
    ready,
    sideAt,
    /** Ask for one frame of both sides. */
    ask: (frame: number) => {
      want("a", frame);
      want("b", frame);
    },
    /** One side's frames and which of them shows a frame of the original, for whoever goes through all. */
    framesOf: (side: "a" | "b") => found[side],
    numberOf: at,
    footageOf: (side: "a" | "b") => footageOf(sides[side]),
    wordsOf: (side: "a" | "b") => sideWords(shot, sides[side]),
    missing: (side: "a" | "b", frame: number) => at(side, frame) === null,
    error,
  };
}
export type Looked = ReturnType<typeof useSides>;

function useFrames(footage: number | null): Frames | null {
  const frames = useMemo(
    () => (footage === null ? null : new Frames(`/api/footage/${footage}/proxies/`)),
    [footage],
  );
  useEffect(() => () => frames?.close(), [frames]);
  return frames;
}
