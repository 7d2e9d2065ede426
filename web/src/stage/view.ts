/** Where the stage looks, worked out without a map so that it can be tested. */
export type Zoom = "whole" | "region" | "actual" | "double" | "delivery";
export type Look = { center: [number, number]; resolution: number };

/** Picture pixels for one CSS pixel, so that one picture pixel (or two by two screen pixels) falls exactly on the screen's own. */
export function resolutionOf(zoom: "actual" | "double", pixelRatio: number): number {
  return (zoom === "double" ? 0.5 : 1) / pixelRatio;
}

/** Move a centre so that picture pixels and screen pixels share their edges: anything else would be resampled. */
export function aligned(center: number, resolution: number, extent: number): number {
  const half = (extent / 2) * resolution;
  const step = Math.min(1, resolution);
  return Math.round((center - half) / step) * step + half;
}

/** Where the centre must move for whole pixels to fall on whole pixels; null if they do, or if they are not drawn whole at this resolution. */
export function squared(
  center: readonly [number, number],
  resolution: number,
  stage: readonly [number, number],
  pixelRatio: number,
): [number, number] | null {
  const screen = 1 / (resolution * pixelRatio);
  if (screen < 1 - 1e-6 || Math.abs(screen - Math.round(screen)) > 1e-6) return null;
  const to: [number, number] = [
    aligned(center[0], resolution, stage[0]),
    aligned(center[1], resolution, stage[1]),
  ];
  return Math.hypot(to[0] - center[0], to[1] - center[1]) > 1e-6 ? to : null;
}

/** The view for a zoom. Map coordinates: x right, y up from the picture's top edge (so y is negative inside it). */
export function lookAt(
  zoom: Zoom,
  frame: readonly [number, number],
  box: readonly number[],
  stage: readonly [number, number],
  pixelRatio: number,
  delivery = 1,
): Look {
  const [x = 0, y = 0, w = 1, h = 1] = box;
  const fit = (width: number, height: number) =>
    Math.max(width / Math.max(1, stage[0]), height / Math.max(1, stage[1]));
  if (zoom === "whole")
    return { center: [frame[0] / 2, -frame[1] / 2], resolution: fit(frame[0], frame[1]) };
  const middle: [number, number] = [x + w / 2, -(y + h / 2)];
  if (zoom === "region") {
    const resolution = Math.max(
      fit(w * 1.25 + 40, h * 1.25 + 40),
      resolutionOf("double", pixelRatio),
    );
    return { center: middle, resolution };
  }
  if (zoom === "delivery")
    return {
      center: [aligned(middle[0], delivery, stage[0]), aligned(middle[1], delivery, stage[1])],
      resolution: delivery,
    };
  const resolution = resolutionOf(zoom, pixelRatio);
  return {
    center: [aligned(middle[0], resolution, stage[0]), aligned(middle[1], resolution, stage[1])],
    resolution,
  };
}

/** A screen's CSS pixels for a millimetre where it was never measured: what CSS itself supposes. */
export const SUPPOSED = 96 / 25.4;

/** Picture pixels for one CSS pixel at a delivery size: a print as large as on paper, a screen size with one output pixel on each of the screen's. */
export function deliveryResolution(
  size: { scale: number; millimetres: number | null } | undefined,
  perMillimetre: number,
  pixelRatio: number,
): number {
  if (!size) return 1 / pixelRatio;
  return size.millimetres === null
    ? 1 / (size.scale * pixelRatio)
    : 1 / (size.millimetres * perMillimetre);
}
