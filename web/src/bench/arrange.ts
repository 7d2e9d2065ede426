import type { Shapes } from "../api/client";

/** Columns in which so many stages are largest on a wide screen, when each should be about as wide as four thirds of its height. */
export function columnsFor(count: number, width: number, height: number): number {
  let best = 1,
    largest = 0;
  for (let columns = 1; columns <= count; columns += 1) {
    const rows = Math.ceil(count / columns);
    const [w, h] = [width / columns, height / rows];
    const seen = Math.min(w / 4, h / 3);
    if (seen > largest + 1e-9) [best, largest] = [columns, seen];
  }
  return best;
}

/** The share of one of `count` tracks with gaps of 3 px, in whole and even pixels: a picture on half a pixel would be resampled. */
export function wholePixels(count: number): string {
  return `round(down, (100% - ${3 * (count - 1)}px) / ${count}, 2px)`;
}

/** One step by an arrow key in a grid; stays at its edges. */
export function stepIn(count: number, columns: number, at: number, key: string): number {
  const to =
    at + ({ ArrowLeft: -1, ArrowRight: 1, ArrowUp: -columns, ArrowDown: columns }[key] ?? 0);
  return to >= 0 && to < count ? to : at;
}

export const inWords = (value: unknown): string =>
  value === null || value === undefined
    ? ""
    : typeof value === "number"
      ? value.toLocaleString()
      : Array.isArray(value)
        ? value.map(inWords).join(" ")
        : typeof value === "string"
          ? value
          : JSON.stringify(value);

/** A setting that differs, as one says it. */
export function settingWords(one: Shapes["SettingOf"]): string {
  if (one.after === null || one.after === undefined)
    return `no ${one.name} (there ${inWords(one.before)})`;
  return `${one.name} ${inWords(one.after)} ${one.before === null || one.before === undefined ? "(not set there)" : `instead of ${inWords(one.before)}`}`;
}

/** Agreement of two orders, in words beside the number. */
export function agreementWords(tau: number): string {
  const much =
    tau >= 0.8 ? "agree" : tau >= 0.4 ? "mostly agree" : tau > -0.2 ? "hardly agree" : "disagree";
  return `people and machine ${much} (tau ${tau.toLocaleString(undefined, { maximumFractionDigits: 2, minimumFractionDigits: 2 })})`;
}
