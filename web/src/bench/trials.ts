import type { Finding } from "../api/client";
import type { MethodDescribed, RunAsked } from "../api/trials";

/** A method that was chosen, with its own settings. */
export type Own = { takes: number; settings: Record<string, unknown> };
export type Common = {
  grow: number;
  feather: number;
  grain: boolean;
  tone: boolean;
  /** Of the fill, 0..1. */
  opacity: number;
};

/** A box of a region's size around a spot, inside the frame. */
export function boxAround(
  bbox: readonly number[],
  [x, y]: readonly [number, number],
  frame: { width: number; height: number },
): number[] {
  const [, , width = 0, height = 0] = bbox;
  // Twice as wide as the region: a source must have room to be chosen in.
  const left = Math.max(0, Math.round(x - width)),
    top = Math.max(0, Math.round(y - height));
  return [
    left,
    top,
    Math.min(frame.width, Math.round(x + width)) - left,
    Math.min(frame.height, Math.round(y + height)) - top,
  ];
}

/** From a region's middle to a spot: where a copy is taken from. */
export function offsetTo(
  bbox: readonly number[],
  [x, y]: readonly [number, number],
): [number, number] {
  const [left = 0, top = 0, width = 0, height = 0] = bbox;
  return [Math.round(x - (left + width / 2)), Math.round(y - (top + height / 2))];
}

/** What is asked of the server for the methods that were chosen, in the order in which they are offered. */
export function chosenRuns(
  methods: readonly MethodDescribed[],
  own: Record<string, Own>,
  common: Common,
): RunAsked[] {
  return methods.flatMap((method) => {
    const chosen = own[method.name];
    if (!chosen) return [];
    return [
      { method: method.name, settings: chosen.settings, ...common, seed: 1, takes: chosen.takes },
    ];
  });
}

/** The boxes that a cell's repeats were taken from. */
export function repeatSources(findings: readonly Finding[]): number[][] {
  return findings.flatMap((one) => {
    const source = (one.evidence as { source?: unknown }).source;
    return one.kind === "repeat" && Array.isArray(source) && source.length === 4
      ? [source.map((value) => Math.max(0, Math.round(Number(value))))]
      : [];
  });
}
