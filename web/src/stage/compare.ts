import { convertRgbToLab65, differenceCiede2000 } from "culori/fn";

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

type Lab = [number, number, number];
const apart = differenceCiede2000();

/** CIELAB (D65) of 8 bit sRGB. */
export function lab(r: number, g: number, b: number): Lab {
  const found = convertRgbToLab65({ r: r / 255, g: g / 255, b: b / 255 });
  return [found.l, found.a, found.b];
}

/** Colour difference CIEDE2000 of two CIELAB colours. */
export function ciede2000(one: Readonly<Lab>, other: Readonly<Lab>): number {
  return apart(
    { mode: "lab65", l: one[0], a: one[1], b: one[2] },
    { mode: "lab65", l: other[0], a: other[1], b: other[2] },
  );
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
