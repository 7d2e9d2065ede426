import { useCallback, useEffect, useLayoutEffect, useReducer, useRef, useState } from "react";
import { ApiError } from "../api/client";
import { useAct } from "../api/outlines";
import type { Hand, Tool } from "../stage/drawing";
import {
  before,
  EMPTY,
  reduce,
  remember,
  remembered,
  shownStep,
  type Act,
  type Area,
  type How,
  type Step,
} from "./state";

export type ToolName = "around" | "corners" | "paint" | "colour" | "veil" | "bend";
export const TOOLS: readonly ToolName[] = ["around", "corners", "paint", "colour", "veil", "bend"];
type Settings = {
  tool: ToolName;
  how: How;
  radius: number;
  tolerance: number;
  /** From which probability on a pixel is part of what is laid over. */
  belief: number;
  connected: boolean;
  inside: boolean;
};
const STARTING: Settings = {
  tool: "around",
  how: "add",
  radius: 12,
  tolerance: 12,
  belief: 0.5,
  connected: true,
  inside: false,
};
const RADII = [1, 2, 3, 5, 8, 12, 18, 26, 40, 60, 90, 140];
const TOLERANCES = [2, 4, 6, 8, 10, 12, 15, 18, 22, 27, 33, 40, 50];
const BELIEFS = [0.95, 0.85, 0.7, 0.5, 0.3, 0.15, 0.05];

/** The next value of a list in a direction. */
export function stepped(values: readonly number[], now: number, by: number): number {
  const nearest = values.reduce(
    (best, value, i) => (Math.abs(value - now) < Math.abs((values[best] ?? 0) - now) ? i : best),
    0,
  );
  return values[Math.max(0, Math.min(values.length - 1, nearest + by))] ?? now;
}

const HOW_WORDS: Record<How, string> = {
  add: "added",
  subtract: "taken away",
  intersect: "only that kept",
};

type Looking = { image: number; box: () => [number, number, number, number] };

/** An outline that is being drawn: what was done, what is done next, and what the server made of it. */
export function useDrawing(picture: number, looking: Looking) {
  const [drawing, change] = useReducer(reduce, picture, remembered);
  const [settings, setSettings] = useState(STARTING);
  const [trouble, setTrouble] = useState<string | null>(null);
  const act = useAct(picture);
  const hand = useRef<Hand | null>(null);
  const sending = useRef(false);
  useEffect(() => remember(picture, drawing), [picture, drawing]);

  const step = drawing ? shownStep(drawing) : null;
  const area = step?.area ?? EMPTY;
  const doing = act.isPending;

  const send = (from: Area, asked: Act, words: string, type: "did" | "redid") => {
    if (sending.current) return;
    sending.current = true;
    setTrouble(null);
    act.mutate(
      { ...asked, mask: from.mask },
      {
        onSuccess: (made) =>
          change({ type, step: { area: made, act: asked, words: made.words || words } }),
        onError: (error) => setTrouble(error.message),
        onSettled: () => {
          sending.current = false;
        },
      },
    );
  };
  const perform = (asked: Act, words: string) => send(area, asked, words, "did");
  /** The last act again, from where it began. */
  const again = (last: Step, asked: Act) => {
    if (drawing) send(before(drawing), asked, last.words, "redid");
  };

  const pickAt = (spot: number[]) => {
    const { image, box } = looking;
    if (settings.tool === "veil") {
      const last = step?.act?.what === "laid over" ? step : null;
      const asked: Act = {
        what: "laid over",
        how: "intersect",
        image,
        belief: settings.belief,
        spots: [...(last?.act?.spots ?? []), spot],
      };
      if (last) again(last, asked);
      else perform(asked, "what is laid over");
      return;
    }
    const asked: Act = {
      what: "colour",
      how: settings.inside ? "intersect" : settings.how,
      image,
      box: box(),
      spots: [spot],
      tolerance: settings.tolerance,
      connected: settings.connected && !settings.inside,
      inside: settings.inside,
    };
    perform(asked, `a colour, ${HOW_WORDS[asked.how]}`);
  };

  const done = (drawn: number[][][]) => {
    const { tool, how, radius } = settings;
    if (tool === "paint")
      perform({ what: "stroke", how, rings: drawn, radius }, `painted, ${HOW_WORDS[how]}`);
    else if (tool === "bend")
      send(EMPTY, { what: "outline", how: "add", rings: drawn }, "a point was moved", "did");
    else if (tool === "around" || tool === "corners")
      perform({ what: "outline", how, rings: drawn }, `drawn around, ${HOW_WORDS[how]}`);
    else if (drawn[0]?.[0]) pickAt(drawn[0][0]);
  };

  /** A thicker brush, more tolerance; what was picked last is picked anew with it. */
  const adjust = (by: number) => {
    const { tool } = settings;
    if (tool === "paint") setSettings({ ...settings, radius: stepped(RADII, settings.radius, by) });
    if (tool === "colour") {
      const tolerance = stepped(TOLERANCES, settings.tolerance, by);
      setSettings({ ...settings, tolerance });
      if (step?.act?.what === "colour") again(step, { ...step.act, tolerance });
    }
    if (tool === "veil") {
      const belief = stepped(BELIEFS, settings.belief, by);
      setSettings({ ...settings, belief });
      if (step?.act?.what === "laid over") again(step, { ...step.act, belief });
    }
  };

  const shape = (what: "grow" | "smooth" | "reach the frame", pixels = 0) => {
    const last = step?.act;
    // Grown twice by a pixel is grown by two: one step, and no rounding in between.
    if (what === "grow" && step && last?.what === "grow") {
      const total = (last.pixels ?? 0) + pixels;
      return again({ ...step, words: grownWords(total) }, { what, how: "add", pixels: total });
    }
    const words =
      what === "grow"
        ? grownWords(pixels)
        : what === "smooth"
          ? "smoothed"
          : "pushed to the frame's edge";
    perform({ what, how: "add", pixels }, words);
  };

  // What is asked for while the server still draws is done in its turn, on what is there by then.
  const now = useRef({ adjust, shape, done });
  useLayoutEffect(() => {
    now.current = { adjust, shape, done };
  });
  const waiting = useRef<(() => void)[]>([]);
  const inTurn = (job: () => void) => {
    if (sending.current || waiting.current.length > 0) waiting.current.push(job);
    else job();
  };
  useEffect(() => {
    while (!sending.current && waiting.current.length > 0) waiting.current.shift()?.();
  }, [doing, drawing]);

  const choose = useCallback(
    (some: Partial<Settings>) => setSettings((old) => ({ ...old, ...some })),
    [],
  );
  const rings = area.parts.flatMap((part) => [part.outer, ...part.holes]);
  const tool: Tool | null = drawing
    ? {
        kind:
          settings.tool === "colour" || settings.tool === "veil"
            ? "spot"
            : (settings.tool satisfies Tool["kind"]),
        radius: settings.tool === "paint" ? settings.radius : undefined,
        at: settings.tool === "bend" ? `${drawing.at} ${area.mask?.length ?? 0}` : undefined,
        rings,
        onDone: (drawn) => inTurn(() => now.current.done(drawn)),
        hand: (now) => {
          hand.current = now;
        },
      }
    : null;
  /** Space acts where the cross is. */
  const actAt = (spot: readonly [number, number]) => {
    if (settings.tool === "corners") hand.current?.set([spot[0] + 0.5, spot[1] + 0.5]);
    else if (settings.tool === "paint")
      inTurn(() => now.current.done([[[spot[0] + 0.5, spot[1] + 0.5]]]));
    else if (settings.tool === "colour" || settings.tool === "veil")
      inTurn(() => now.current.done([[[...spot]]]));
    else setTrouble("Points are set, painted and picked with the cross; this is drawn by hand.");
  };
  return {
    drawing,
    change,
    step,
    area,
    settings,
    choose,
    tool,
    doing,
    trouble,
    setTrouble,
    adjust: (by: number) => inTurn(() => now.current.adjust(by)),
    shape: (what: Parameters<typeof shape>[0], pixels?: number) =>
      inTurn(() => now.current.shape(what, pixels)),
    perform,
    actAt,
    endLine: () => hand.current?.end(),
  };
}

const grownWords = (pixels: number) =>
  pixels >= 0 ? `grown by ${pixels} px` : `shrunk by ${-pixels} px`;

export type Drawer = ReturnType<typeof useDrawing>;
/** Whether somebody else drew meanwhile. */
export const stale = (error: unknown): boolean => error instanceof ApiError && error.status === 412;
