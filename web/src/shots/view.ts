import type { Affine } from "./ground";

/** How the frame lies on the screen: `scale` device pixels for one of its own, `x`, `y` what is in the middle. */
export type View = { scale: number; x: number; y: number };
export type Zoom = "whole" | "region" | 1 | 2;
type Size = { width: number; height: number };
type Box = readonly [number, number, number, number];

/** A view that shows all of a frame, or a box of it with room around. */
export function viewOf(zoom: Zoom, screen: Size, frame: Size, box: Box | null): View {
  const middle = { x: frame.width / 2, y: frame.height / 2 };
  const at = box ? { x: box[0] + box[2] / 2, y: box[1] + box[3] / 2 } : middle;
  if (zoom === 1 || zoom === 2) return { scale: zoom, ...at };
  if (zoom === "region" && box)
    return {
      scale: Math.min(8, screen.width / (box[2] * 2.4 + 40), screen.height / (box[3] * 2.4 + 40)),
      ...at,
    };
  return {
    scale: Math.min(screen.width / frame.width, screen.height / frame.height, 4),
    ...middle,
  };
}

/** From the frame's pixels to the screen's. At 100 % and above pixels lie on pixels. */
export function ontoScreen(view: View, screen: Size): Affine {
  const left = screen.width / 2 - view.scale * view.x;
  const top = screen.height / 2 - view.scale * view.y;
  const whole = Number.isInteger(view.scale);
  return [
    view.scale,
    0,
    0,
    view.scale,
    whole ? Math.round(left) : left,
    whole ? Math.round(top) : top,
  ];
}

/** The same, larger or smaller around a place on the screen. */
export function zoomedAt(
  view: View,
  screen: Size,
  at: readonly [number, number],
  by: number,
): View {
  const scale = Math.min(16, Math.max(0.05, view.scale * by));
  const [dx, dy] = [at[0] - screen.width / 2, at[1] - screen.height / 2];
  return {
    scale,
    x: view.x + dx / view.scale - dx / scale,
    y: view.y + dy / view.scale - dy / scale,
  };
}
