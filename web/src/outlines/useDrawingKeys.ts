import type View from "ol/View";
import { useEffect, useRef } from "react";
import type { Zooming } from "../bench/ZoomButtons";
import { useKeys } from "../keys";
import type { Drawer, ToolName } from "./useDrawing";

export type At = readonly [number, number];
type Given = {
  drawer: Drawer;
  zooming: Zooming;
  link: { view: View | null };
  within: (x: number, y: number) => At;
  at: At | null;
  setAt: (at: At | null) => void;
  toggle: () => void;
  keep: () => void;
  swap: (down: boolean) => void;
  nextImage: () => void;
  back: () => void;
  desk: () => void;
};

const WAYS: Record<string, At> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};
/** Pixels of the screen for one press. */
const STEP = 8;

/** Every key of the outlines' screen. */
export function useDrawingKeys(given: Given): void {
  const { drawer, zooming } = given;
  const drawing = drawer.drawing !== null;
  /** Something that acts only while an outline is drawn. */
  const while_ = (act: () => void) => () => {
    if (drawing) act();
    else drawer.setTrouble("No outline is being drawn: begin with a region, or a new one.");
  };
  const tool = (name: ToolName) => while_(() => drawer.choose({ tool: name }));
  useKeys({
    ...zooming.keys,
    swap: given.swap,
    nextA: given.nextImage,
    outlines: given.back,
    desk: given.desk,
    edit: given.toggle,
    keep: while_(given.keep),
    around: tool("around"),
    corners: tool("corners"),
    paint: tool("paint"),
    colour: tool("colour"),
    veil: tool("veil"),
    bend: tool("bend"),
    adds: while_(() => drawer.choose({ how: "add" })),
    takesAway: while_(() => drawer.choose({ how: "subtract" })),
    keepsOnly: while_(() => drawer.choose({ how: "intersect" })),
    thinner: while_(() => drawer.adjust(-1)),
    thicker: while_(() => drawer.adjust(1)),
    larger: while_(() => drawer.shape("grow", 1)),
    smaller: while_(() => drawer.shape("grow", -1)),
    smooth: while_(() => drawer.shape("smooth", 2)),
    toFrame: while_(() => drawer.shape("reach the frame")),
    undo: while_(() => drawer.change({ type: "undo" })),
    redo: while_(() => drawer.change({ type: "redo" })),
  });
  useCross(given, drawing);
}

/** Arrow keys move a cross, Space acts where it is, Escape closes a line of points. */
function useCross(given: Given, drawing: boolean): void {
  const now = useRef(given);
  useEffect(() => {
    now.current = given;
  });
  useEffect(() => {
    if (!drawing) return undefined;
    const pressed = (event: KeyboardEvent) => {
      const { link, within, at, setAt, drawer } = now.current;
      const target = event.target as HTMLElement;
      if (event.ctrlKey || event.altKey || event.metaKey || event.shiftKey) return;
      if (/^(INPUT|TEXTAREA|SELECT|BUTTON)$/.test(target.tagName) && event.key !== "Escape") return;
      if (document.querySelector("[role=dialog]")) return;
      const way = WAYS[event.key];
      if (way) {
        event.preventDefault();
        const by = Math.max(1, Math.round(STEP * (link.view?.getResolution() ?? 1)));
        const [x = 0, y = 0] = link.view?.getCenter() ?? [];
        const from = at ?? within(x, -y);
        setAt(at ? within(from[0] + way[0] * by, from[1] + way[1] * by) : from);
      } else if (event.key === " " && at) {
        event.preventDefault();
        if (!event.repeat) drawer.actAt(at);
      } else if (event.key === "Escape") drawer.endLine();
    };
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  }, [drawing]);
}
