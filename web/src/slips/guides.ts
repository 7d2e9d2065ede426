import type { Change } from "../api/client";
import { withSetting } from "./changes";

type Quad = number[];
/** What is drawn on a slip's picture, each kind carried by one change. */
export const GUIDES = {
  "keep sources out": { words: "mark what nothing is taken from", drawn: "area" },
  "take from here": { words: "mark where to take it from", drawn: "area" },
  "follow the line": { words: "draw a direction", drawn: "line" },
} as const;
export type Guide = keyof typeof GUIDES;
export const isGuide = (what: string): what is Guide => what in GUIDES;

type Values = { boxes?: Quad[]; lines?: Quad[]; degrees?: number[] };
const valuesOf = (change: Change) => (change.values ?? {}) as Values;
export const boxesOf = (change: Change) => valuesOf(change).boxes ?? [];
export const linesOf = (change: Change) => valuesOf(change).lines ?? [];

/** The box around what was drawn, whole pixels; null where it is hardly a spot. */
export function boxAround(points: readonly (readonly number[])[]): Quad | null {
  const xs = points.map(([x = 0]) => x),
    ys = points.map(([, y = 0]) => y);
  const left = Math.floor(Math.min(...xs)),
    top = Math.floor(Math.min(...ys));
  const box = [left, top, Math.ceil(Math.max(...xs)) - left, Math.ceil(Math.max(...ys)) - top];
  return (box[2] ?? 0) >= 3 && (box[3] ?? 0) >= 3 ? box : null;
}

/** From the first to the last point of a stroke; null where it is too short to point anywhere. */
export function lineAlong(points: readonly (readonly number[])[]): Quad | null {
  const [x0 = 0, y0 = 0] = points[0] ?? [],
    [x1 = 0, y1 = 0] = points.at(-1) ?? [];
  const whole = [x0, y0, x1, y1].map(Math.round);
  return Math.hypot(x1 - x0, y1 - y0) >= 8 ? whole : null;
}

/** Degrees of a line: 0 is level, growing clockwise, to a tenth; either way along it is the same. */
export function degreesOf([x0 = 0, y0 = 0, x1 = 0, y1 = 0]: Quad): number {
  const angle = (Math.atan2(y1 - y0, x1 - x0) * 180) / Math.PI;
  return Math.round((((angle % 180) + 180) % 180) * 10) / 10;
}

/** Changes with one more thing drawn; the change that carries it is added where it is missing. */
export function withDrawn(
  changes: Change[],
  guide: Guide,
  points: readonly (readonly number[])[],
): Change[] {
  const quad = GUIDES[guide].drawn === "area" ? boxAround(points) : lineAlong(points);
  if (!quad) return changes;
  const old = changes.find((one) => one.what === guide) ?? withSetting(guide);
  const values = valuesOf(old);
  const now: Change = {
    ...old,
    values:
      GUIDES[guide].drawn === "area"
        ? { ...values, boxes: [...(values.boxes ?? []), quad] }
        : {
            ...values,
            lines: [...(values.lines ?? []), quad],
            degrees: [...(values.degrees ?? []), degreesOf(quad)],
          },
  };
  return changes.some((one) => one.what === guide)
    ? changes.map((one) => (one.what === guide ? now : one))
    : [...changes, now];
}

/** Changes without the last thing that was drawn of a kind. */
export function withoutLast(changes: Change[], guide: Guide): Change[] {
  return changes.flatMap((one) => {
    if (one.what !== guide) return [one];
    const { boxes = [], lines = [], degrees = [] } = valuesOf(one);
    const area = GUIDES[guide].drawn === "area";
    const values = area
      ? { ...one.values, boxes: boxes.slice(0, -1) }
      : { ...one.values, lines: lines.slice(0, -1), degrees: degrees.slice(0, -1) };
    const left = area ? boxes.length > 1 : degrees.length > 1;
    return left ? [{ ...one, values }] : [];
  });
}

/** How many things of a kind are drawn. */
export const drawnOf = (changes: Change[], guide: Guide) =>
  changes
    .filter((one) => one.what === guide)
    .reduce((sum, one) => sum + boxesOf(one).length + linesOf(one).length, 0);
