/** Ranges and lists of frames as people read and write them. */

import { called, rangeWords, type Range } from "./clock";

/** "frames 3 to 9, and frame 12" */
export function rangesWords(ranges: readonly Range[], frames: number, first: number): string {
  if (ranges.length <= 1) return ranges[0] ? rangeWords(ranges[0], frames, first) : "no frames";
  const said = ranges.map((one) =>
    one.first === one.last
      ? called(one.first, first)
      : `${called(one.first, first)} to ${called(one.last, first)}`,
  );
  return `frames ${said.slice(0, -1).join(", ")} and ${said[said.length - 1]}`;
}

/** Numbers of frames, as the files are numbered, counted from 0; null if they are not all numbers of frames. */
export function framesIn(listed: string, first: number): number[] | null {
  const parts = listed.split(/[\s,;]+/).filter((one) => one !== "");
  const found = parts.map((one) => (/^\d+$/.test(one) ? Number(one) - first : -1));
  return found.some((one) => one < 0) ? null : [...new Set(found)];
}
