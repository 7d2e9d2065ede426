import type { Finding } from "../api/client";
import type { MethodDescribed, RunAsked } from "../api/trials";

/** A method that was chosen, with its own settings. */
export type Own = { takes: number; settings: Record<string, unknown> };
export type Common = { grow: number; feather: number; grain: boolean; tone: boolean };

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
