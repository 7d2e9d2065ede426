import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { spotQuery } from "../api/queries";
import type { Shapes } from "../api/client";

export type At = readonly [number, number];
export const REST_MS = 90;
const WAYS: Record<string, At> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** The spot that is read: where it was pinned, or where the pointer rests. Shift and the arrow keys move a pinned one by a pixel. */
export function useSpot(
  picture: number,
  frame: At,
  a: number,
  b: number,
  middle: () => At,
): {
  pinned: At | null;
  reading: Shapes["Spots"] | null;
  trouble: string | null;
  over: (at: At | null) => void;
  pin: () => void;
} {
  const [over, setOver] = useState<At | null>(null);
  const [rested, setRested] = useState<At | null>(null);
  const [pinned, setPinned] = useState<At | null>(null);
  const [width, height] = frame;
  useEffect(() => {
    const later = setTimeout(() => setRested(over), REST_MS);
    return () => clearTimeout(later);
  }, [over]);
  useEffect(() => {
    if (!pinned) return undefined;
    const moved = (event: KeyboardEvent) => {
      const way = WAYS[event.key];
      if (
        !way ||
        !event.shiftKey ||
        event.ctrlKey ||
        event.altKey ||
        event.metaKey ||
        document.querySelector("[role=dialog]")
      )
        return;
      event.preventDefault();
      event.stopPropagation();
      setPinned(
        (old) =>
          old && [
            Math.max(0, Math.min(width - 1, old[0] + way[0])),
            Math.max(0, Math.min(height - 1, old[1] + way[1])),
          ],
      );
    };
    // Before the ledger, which walks by the same keys without Shift.
    window.addEventListener("keydown", moved, true);
    return () => window.removeEventListener("keydown", moved, true);
  }, [pinned, width, height]);
  const at = pinned ?? rested;
  const query = useQuery({
    ...spotQuery(picture, at ?? [0, 0], a, b),
    enabled: at !== null,
    placeholderData: keepPreviousData,
  });
  return {
    pinned,
    reading: at && query.data ? query.data : null,
    trouble: at && query.isError ? query.error.message : null,
    over: setOver,
    pin: () => setPinned((old) => (old ? null : (over ?? middle()))),
  };
}
