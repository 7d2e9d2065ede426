/** What plays: pure sums, so that no frame is guessed. */

export type Range = { first: number; last: number };
export const SPEEDS = [1, 0.5, 0.25] as const;

export const speedWords = (speed: number): string =>
  speed === 1 ? "full speed" : speed === 0.5 ? "half speed" : "quarter speed";

export const whole = (frames: number): Range => ({ first: 0, last: Math.max(0, frames - 1) });

export const within = (frame: number, range: Range): number =>
  Math.min(range.last, Math.max(range.first, frame));

/** A range of two frames in whichever order they were set. */
export const between = (one: number, other: number): Range => ({
  first: Math.min(one, other),
  last: Math.max(one, other),
});

/** The frame after so many seconds of playing from `start`, round and round in the range. */
export function frameAt(start: number, seconds: number, rate: number, range: Range): number {
  const length = range.last - range.first + 1;
  const passed = Math.floor(seconds * rate + 1e-9);
  return range.first + ((((start - range.first + passed) % length) + length) % length);
}

/** How many frames were left out from one that was shown to the next, playing forwards in the range. */
export function skipped(shown: number, next: number, range: Range): number {
  const length = range.last - range.first + 1;
  const step = (((next - shown) % length) + length) % length;
  return Math.max(0, step - 1);
}

/** Frames that will be needed next, the nearest first. */
export function ahead(frame: number, count: number, range: Range): number[] {
  const length = range.last - range.first + 1;
  return Array.from(
    { length: Math.min(count, length) },
    (_, step) => range.first + ((frame - range.first + step) % length),
  );
}

/** The attempt's frame that shows one of the original's; null where none does. `shows`: of each of the attempt's frames the original's, ascending;
 * empty while nobody knows. */
export function shownBy(shows: readonly number[], frame: number): number | null {
  if (shows.length === 0) return frame;
  const at = shows.indexOf(frame);
  return at < 0 ? null : at;
}

/** Frame numbers are counted as the files are numbered. */
export const called = (frame: number, first: number): string => String(frame + first);

export function rangeWords(range: Range, frames: number, first: number): string {
  if (range.first === 0 && range.last === frames - 1) return "the whole shot";
  if (range.first === range.last) return `frame ${called(range.first, first)}`;
  return `frames ${called(range.first, first)} to ${called(range.last, first)}`;
}
