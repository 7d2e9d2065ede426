import { useEffect, useLayoutEffect, useRef, useState, type PointerEvent } from "react";
import { chained, inverse, places, type Affine } from "./ground";
import { paint, type Painted, type Rings, type Side } from "./paint";
import { ontoScreen, viewOf, zoomedAt, type View, type Zoom } from "./view";

export type Drawing = { points: [number, number][]; cross: [number, number] };

type Props = {
  frame: number;
  size: { width: number; height: number };
  mode: Painted["mode"];
  alone: "a" | "b";
  sides: { a: Side; b: Side };
  /** Whether what is alone to be seen is at full size, not as it is played. */
  full: boolean;
  line: number;
  doubled: number;
  zoom: Zoom;
  /** What the zoom is on; null: the whole frame. */
  box: readonly [number, number, number, number] | null;
  /** From this frame's pixels to where they are shown, in the frame's pixels too. */
  held: Affine;
  outlines: { rings: Rings; strong: boolean }[];
  drawing: Drawing | null;
  moving: boolean;
  onLine: (line: number) => void;
  onPoint: (at: [number, number]) => void;
  /** Device pixels for one of the frame's. */
  onScale: (scale: number) => void;
  words: string;
};

/** How near the line one has to be to take hold of it, CSS pixels. */
const NEAR = 10;

/** The picture that moves: two sides in step, moved and zoomed together. */
export function ShotStage(props: Props) {
  const { size, zoom, box, held } = props;
  const canvas = useRef<HTMLCanvasElement>(null);
  const [screen, setScreen] = useState({ width: 0, height: 0 });
  /** Where it was moved to by hand, for as long as the zoom and what it is on stay. */
  const [moved, setMoved] = useState<{ of: string; view: View } | null>(null);
  const grip = useRef<{ x: number; y: number; line: boolean } | null>(null);
  const of = `${zoom} ${box?.join(" ") ?? ""}`;
  const view = moved?.of === of ? moved.view : viewOf(zoom, screen, size, box);
  const onto = chained(held, ontoScreen(view, screen));

  useEffect(() => {
    const element = canvas.current;
    if (!element) return undefined;
    const seen = new ResizeObserver(() => {
      const ratio = window.devicePixelRatio || 1;
      setScreen({
        width: Math.round(element.clientWidth * ratio),
        height: Math.round(element.clientHeight * ratio),
      });
    });
    seen.observe(element);
    return () => seen.disconnect();
  }, []);

  const { onScale } = props;
  useEffect(() => onScale(view.scale), [onScale, view.scale]);

  useLayoutEffect(() => {
    const element = canvas.current;
    const context = element?.getContext("2d");
    if (!element || !context || screen.width === 0) return;
    if (element.width !== screen.width || element.height !== screen.height) {
      element.width = screen.width;
      element.height = screen.height;
    }
    const drawn = props.drawing;
    paint(context, {
      ...screen,
      frame: size,
      mode: props.mode,
      a: props.sides.a,
      b: props.sides.b,
      alone: props.alone,
      line: props.line,
      doubled: props.doubled,
      onto,
      outlines: drawn
        ? [...props.outlines, { rings: [drawn.points], strong: true, open: true }]
        : props.outlines,
      cross: drawn?.cross ?? null,
      moving: props.moving,
    });
    // What is drawn where, for whoever has to prove it.
    element.dataset.onto = onto.join(" ");
    element.dataset.frame = props.sides[props.alone] ? String(props.frame) : "";
  });

  const place = (event: PointerEvent | globalThis.WheelEvent): [number, number] => {
    const ratio = window.devicePixelRatio || 1;
    const around = canvas.current?.getBoundingClientRect();
    return [
      (event.clientX - (around?.left ?? 0)) * ratio,
      (event.clientY - (around?.top ?? 0)) * ratio,
    ];
  };
  const latest = useRef({ view, screen, of });
  useLayoutEffect(() => {
    latest.current = { view, screen, of };
  });
  useEffect(() => {
    const element = canvas.current;
    if (!element) return undefined;
    const wheel = (event: globalThis.WheelEvent) => {
      event.preventDefault();
      const now = latest.current;
      setMoved({
        of: now.of,
        view: zoomedAt(now.view, now.screen, place(event), Math.exp(-event.deltaY / 400)),
      });
    };
    // React's own listeners cannot keep the page from scrolling.
    element.addEventListener("wheel", wheel, { passive: false });
    return () => element.removeEventListener("wheel", wheel);
  }, []);

  const down = (event: PointerEvent) => {
    if (props.drawing) {
      props.onPoint(places(inverse(onto), ...place(event)));
      return;
    }
    const [x, y] = place(event);
    const ratio = window.devicePixelRatio || 1;
    const line = props.mode === "wipe" && Math.abs(x - props.line * screen.width) < NEAR * ratio;
    grip.current = { x, y, line };
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  const move = (event: PointerEvent) => {
    const from = grip.current;
    if (!from) return;
    const [x, y] = place(event);
    if (from.line) props.onLine(Math.min(1, Math.max(0, x / screen.width)));
    else
      setMoved({
        of,
        view: {
          ...view,
          x: view.x - (x - from.x) / view.scale,
          y: view.y - (y - from.y) / view.scale,
        },
      });
    grip.current = { ...from, x, y };
  };
  return (
    <canvas
      ref={canvas}
      className="h-full w-full touch-none"
      role="img"
      aria-label={props.words}
      data-scale={view.scale}
      data-full={props.full}
      style={{ cursor: props.drawing ? "crosshair" : "grab" }}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={() => (grip.current = null)}
      onPointerCancel={() => (grip.current = null)}
    />
  );
}
