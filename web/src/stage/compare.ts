/** Ways to compare two images, worked out without a map so that they can be tested. */
export type Mode = "one" | "wipe" | "beside" | "difference";
/** `position` 0..1 along the way across the stage; `angle` in degrees: 0 is an upright line with A on its left. */
export type Wipe = { position: number; angle: number };
export type Measure = "absolute" | "signed" | "CIEDE2000";
export const MEASURES: readonly Measure[] = ["absolute", "signed", "CIEDE2000"];
export const AMPLIFIED: readonly number[] = [1, 2, 4, 8, 16, 32];
/** At most three changes a second (WCAG 2.3.1), and one picture long enough to be looked at. */
export const BEAT_MS = 500;

/** The line across a stage of `width` x `height`: a point on it, and the unit vector along it. */
export function lineOf(
  { position, angle }: Wipe,
  width: number,
  height: number,
): { at: [number, number]; along: [number, number] } {
  const turn = (angle * Math.PI) / 180;
  // Across the line lies the way it is moved along; how far it must go to pass over every corner follows from the angle.
  const across: [number, number] = [Math.cos(turn), Math.sin(turn)];
  const reach = Math.abs(across[0]) * width + Math.abs(across[1]) * height;
  const off = (position - 0.5) * reach;
  return {
    at: [width / 2 + across[0] * off, height / 2 + across[1] * off],
    along: [-across[1], across[0]],
  };
}

/** The part of the stage on A's side of the line, as a polygon that reaches beyond it. */
export function sideOfA(wipe: Wipe, width: number, height: number): [number, number][] {
  const { at, along } = lineOf(wipe, width, height);
  const far = 2 * (width + height),
    [dx, dy] = [along[0] * far, along[1] * far];
  const back: [number, number] = [-along[1] * far, along[0] * far];
  const sign =
    back[0] * Math.cos((wipe.angle * Math.PI) / 180) +
      back[1] * Math.sin((wipe.angle * Math.PI) / 180) <
    0
      ? 1
      : -1;
  return [
    [at[0] - dx, at[1] - dy],
    [at[0] + dx, at[1] + dy],
    [at[0] + dx + sign * back[0], at[1] + dy + sign * back[1]],
    [at[0] - dx + sign * back[0], at[1] - dy + sign * back[1]],
  ];
}

const LINEAR = Float64Array.from({ length: 256 }, (_, level) => {
  const v = level / 255;
  return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
});
const root = (t: number) => (t > 216 / 24389 ? Math.cbrt(t) : (t * (24389 / 27) + 16) / 116);

/** CIELAB (D65) of 8 bit sRGB (IEC 61966-2-1). */
export function lab(r: number, g: number, b: number): [number, number, number] {
  const [lr, lg, lb] = [LINEAR[r] ?? 0, LINEAR[g] ?? 0, LINEAR[b] ?? 0];
  const x = root((0.4124564 * lr + 0.3575761 * lg + 0.1804375 * lb) / 0.95047),
    y = root(0.2126729 * lr + 0.7151522 * lg + 0.072175 * lb),
    z = root((0.0193339 * lr + 0.119192 * lg + 0.9503041 * lb) / 1.08883);
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)];
}

/** Colour difference CIEDE2000 (CIE 142-2001; written after Sharma, Wu and Dalal 2005). */
export function ciede2000(
  [l1, a1, b1]: readonly [number, number, number],
  [l2, a2, b2]: readonly [number, number, number],
): number {
  const rad = Math.PI / 180,
    mean = (Math.hypot(a1, b1) + Math.hypot(a2, b2)) / 2;
  const g = 0.5 * (1 - Math.sqrt(mean ** 7 / (mean ** 7 + 25 ** 7)));
  const p1 = (1 + g) * a1,
    p2 = (1 + g) * a2,
    c1 = Math.hypot(p1, b1),
    c2 = Math.hypot(p2, b2);
  const hue = (a: number, b: number) =>
    a === 0 && b === 0 ? 0 : (Math.atan2(b, a) / rad + 360) % 360;
  const h1 = hue(p1, b1),
    h2 = hue(p2, b2),
    grey = c1 * c2 === 0;
  let dh = grey ? 0 : h2 - h1;
  if (dh > 180) dh -= 360;
  else if (dh < -180) dh += 360;
  const dl = l2 - l1,
    dc = c2 - c1,
    dH = 2 * Math.sqrt(c1 * c2) * Math.sin((dh / 2) * rad);
  const l = (l1 + l2) / 2,
    c = (c1 + c2) / 2;
  const h = grey
    ? h1 + h2
    : Math.abs(h1 - h2) <= 180
      ? (h1 + h2) / 2
      : h1 + h2 < 360
        ? (h1 + h2 + 360) / 2
        : (h1 + h2 - 360) / 2;
  const t =
    1 -
    0.17 * Math.cos((h - 30) * rad) +
    0.24 * Math.cos(2 * h * rad) +
    0.32 * Math.cos((3 * h + 6) * rad) -
    0.2 * Math.cos((4 * h - 63) * rad);
  const sl = 1 + (0.015 * (l - 50) ** 2) / Math.sqrt(20 + (l - 50) ** 2),
    sc = 1 + 0.045 * c,
    sh = 1 + 0.015 * c * t;
  const rt =
    -2 *
    Math.sqrt(c ** 7 / (c ** 7 + 25 ** 7)) *
    Math.sin(60 * rad * Math.exp(-(((h - 275) / 25) ** 2)));
  return Math.sqrt((dl / sl) ** 2 + (dc / sc) ** 2 + (dH / sh) ** 2 + rt * (dc / sc) * (dH / sh));
}

/** The CIEDE2000 that shows as white, by amplification: a scale is drawn with it. */
export const whiteAt = (amplified: number) => 32 / amplified;

/** One pixel of the difference B - A. Absolute: black where both are the same. Signed: middle grey there, lighter where B is lighter. CIEDE2000: black to white. */
export function differing(
  a: ArrayLike<number>,
  b: ArrayLike<number>,
  measure: Measure,
  amplified: number,
): [number, number, number, number] {
  const [ar, ag, ab, br, bg, bb] = [
    a[0] ?? 0,
    a[1] ?? 0,
    a[2] ?? 0,
    b[0] ?? 0,
    b[1] ?? 0,
    b[2] ?? 0,
  ];
  const clip = (value: number) => Math.max(0, Math.min(255, Math.round(value)));
  if ((a[3] ?? 255) === 0 || (b[3] ?? 255) === 0) return [0, 0, 0, 0];
  if (measure === "signed")
    return [
      clip(128 + (br - ar) * amplified),
      clip(128 + (bg - ag) * amplified),
      clip(128 + (bb - ab) * amplified),
      255,
    ];
  if (measure === "absolute")
    return [
      clip(Math.abs(br - ar) * amplified),
      clip(Math.abs(bg - ag) * amplified),
      clip(Math.abs(bb - ab) * amplified),
      255,
    ];
  const grey =
    ar === br && ag === bg && ab === bb
      ? 0
      : clip((ciede2000(lab(ar, ag, ab), lab(br, bg, bb)) / whiteAt(amplified)) * 255);
  return [grey, grey, grey, 255];
}
