import type { Affine } from "./ground";

export type Mode = "one" | "wipe" | "difference" | "slice";
/** A frame of some footage, drawn as large as the original's frames are. */
export type Side = { bitmap: CanvasImageSource; words: string } | null;
export type Rings = readonly (readonly (readonly number[])[])[];

export type Painted = {
  /** On the screen, device pixels. */
  width: number;
  height: number;
  /** Of the original's frames. */
  frame: { width: number; height: number };
  mode: Exclude<Mode, "slice">;
  a: Side;
  b: Side;
  /** Which of the two is alone to be seen. */
  alone: "a" | "b";
  /** Where the line is, part of the screen's width. */
  line: number;
  /** The difference is doubled so often. */
  doubled: number;
  /** From the frame's pixels to the screen's. */
  onto: Affine;
  /** Outlines in the frame's pixels: what is looked at, and what is being drawn. */
  outlines: { rings: Rings; strong: boolean; open?: boolean }[];
  cross: readonly [number, number] | null;
  /** Whether it plays. */
  moving: boolean;
};

function put(context: CanvasRenderingContext2D, side: Side, painted: Painted): void {
  if (!side) return;
  const [a, b] = painted.onto;
  const scale = Math.hypot(a, b);
  context.setTransform(...painted.onto);
  // Above its own size a pixel is seen as what it is.
  context.imageSmoothingEnabled = scale < 0.999 || Math.abs(b) > 1e-6;
  // A frame that is seen for a twenty-fourth of a second has to be there in time.
  context.imageSmoothingQuality = painted.moving ? "low" : "high";
  context.drawImage(side.bitmap, 0, 0, painted.frame.width, painted.frame.height);
  context.setTransform(1, 0, 0, 1, 0, 0);
}

/** Draw what is to be seen of one moment. */
export function paint(context: CanvasRenderingContext2D, painted: Painted): void {
  const { width, height, mode, a, b } = painted;
  context.setTransform(1, 0, 0, 1, 0, 0);
  context.globalCompositeOperation = "source-over";
  context.clearRect(0, 0, width, height);
  if (mode === "one") put(context, painted.alone === "a" ? a : b, painted);
  else if (mode === "wipe") {
    const at = Math.round(painted.line * width);
    for (const [side, from, to] of [
      [a, 0, at],
      [b, at, width],
    ] as const) {
      context.save();
      context.beginPath();
      context.rect(from, 0, to - from, height);
      context.clip();
      put(context, side, painted);
      context.restore();
    }
    context.fillStyle = "#000";
    context.fillRect(at - 1, 0, 1, height);
    context.fillStyle = "#fff";
    context.fillRect(at, 0, 1, height);
  } else if (a && b) {
    // Half-covered pixels at the frame's edge would differ from nothing.
    context.setTransform(...painted.onto);
    context.fillStyle = "#000";
    context.fillRect(-1, -1, painted.frame.width + 2, painted.frame.height + 2);
    put(context, a, painted);
    context.globalCompositeOperation = "difference";
    put(context, b, painted);
    context.globalCompositeOperation = "lighter";
    for (let time = 0; time < painted.doubled; time += 1) context.drawImage(context.canvas, 0, 0);
    context.globalCompositeOperation = "source-over";
  }
  for (const one of painted.outlines) trace(context, one, painted.onto);
  if (painted.cross) {
    const [x, y] = screenOf(painted.onto, painted.cross);
    for (const [colour, wide] of [
      ["#000", 3],
      ["#fff", 1],
    ] as const) {
      context.strokeStyle = colour;
      context.lineWidth = wide;
      context.beginPath();
      context.moveTo(x - 9, y);
      context.lineTo(x + 9, y);
      context.moveTo(x, y - 9);
      context.lineTo(x, y + 9);
      context.stroke();
    }
  }
}

const screenOf = ([a, b, c, d, e, f]: Affine, [x, y]: readonly [number, number]) =>
  [a * x + c * y + e, b * x + d * y + f] as const;

/** Black under white, so that it is seen on anything without a colour of its own. */
function trace(
  context: CanvasRenderingContext2D,
  one: Painted["outlines"][number],
  onto: Affine,
): void {
  context.beginPath();
  for (const ring of one.rings) {
    ring.forEach(([x = 0, y = 0], at) => {
      const [left, top] = screenOf(onto, [x, y]);
      if (at === 0) context.moveTo(left, top);
      else context.lineTo(left, top);
    });
    if (!one.open) context.closePath();
  }
  context.setLineDash(one.strong ? [] : [5, 4]);
  context.strokeStyle = "rgb(0 0 0 / 0.75)";
  context.lineWidth = 3;
  context.stroke();
  context.strokeStyle = "rgb(255 255 255 / 0.95)";
  context.lineWidth = 1;
  context.stroke();
  context.setLineDash([]);
}
