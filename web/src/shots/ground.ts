/** The ground held still on the screen: what drifts against it is seen to move. */

/** a, b, c, d, e, f as a canvas takes them: x' = a x + c y + e, y' = b x + d y + f. */
export type Affine = [number, number, number, number, number, number];

export const IDENTITY: Affine = [1, 0, 0, 1, 0, 0];

export const places = ([a, b, c, d, e, f]: Affine, x: number, y: number): [number, number] => [
  a * x + c * y + e,
  b * x + d * y + f,
];

/** `first`, then `second`. */
export function chained(first: Affine, second: Affine): Affine {
  const [a, b, c, d, e, f] = first;
  const [A, B, C, D, E, F] = second;
  return [
    A * a + C * b,
    B * a + D * b,
    A * c + C * d,
    B * c + D * d,
    A * e + C * f + E,
    B * e + D * f + F,
  ];
}

export function inverse([a, b, c, d, e, f]: Affine): Affine {
  const over = a * d - b * c;
  return [d / over, -b / over, -c / over, a / over, (c * f - d * e) / over, (b * e - a * f) / over];
}

/** What a homography (nine numbers in rows) does near a place: a canvas draws no other, and within a region's window the rest is far below a pixel. */
export function near(matrix: readonly number[], x: number, y: number): Affine {
  const [h0 = 1, h1 = 0, h2 = 0, h3 = 0, h4 = 1, h5 = 0, h6 = 0, h7 = 0, h8 = 1] = matrix;
  const w = h6 * x + h7 * y + h8;
  const u = (h0 * x + h1 * y + h2) / w;
  const v = (h3 * x + h4 * y + h5) / w;
  const a = (h0 - h6 * u) / w;
  const c = (h1 - h7 * u) / w;
  const b = (h3 - h6 * v) / w;
  const d = (h4 - h7 * v) / w;
  return [a, b, c, d, u - a * x - c * y, v - b * x - d * y];
}

type Rings = readonly (readonly (readonly number[])[])[];

/** The middle of a region's box; null where it has no outline. */
export function middleOf(rings: Rings): [number, number] | null {
  const points = rings.flat();
  if (points.length === 0) return null;
  const xs = points.map((point) => point[0] ?? 0);
  const ys = points.map((point) => point[1] ?? 0);
  return [(Math.min(...xs) + Math.max(...xs)) / 2, (Math.min(...ys) + Math.max(...ys)) / 2];
}

export function boxOf(rings: Rings): [number, number, number, number] | null {
  const points = rings.flat();
  if (points.length === 0) return null;
  const xs = points.map((point) => point[0] ?? 0);
  const ys = points.map((point) => point[1] ?? 0);
  const [left, top] = [Math.min(...xs), Math.min(...ys)];
  return [left, top, Math.max(...xs) - left, Math.max(...ys) - top];
}
