import { expect, test } from "vitest";
import type { MethodDescribed } from "../api/trials";
import { chosenRuns, offsetTo } from "./trials";

const method = (name: string): MethodDescribed => ({
  name,
  words: "",
  backdrops: [],
  takes: false,
  asks: [],
});

test("a copy is taken from where the pinned spot lies to the region's middle", () => {
  expect(offsetTo([100, 50, 40, 20], [220, 60])).toEqual([100, 0]);
  expect(offsetTo([100, 50, 41, 20], [100, 50])).toEqual([-20, -10]);
});

test("only what was chosen runs, with its own settings and those of all", () => {
  const common = { grow: 2, feather: 0, grain: true, tone: false };
  const runs = chosenRuns(
    [method("gradient fill"), method("exemplar fill")],
    { "exemplar fill": { takes: 3, settings: { scale: 0.5 } } },
    common,
  );
  expect(runs).toEqual([
    { method: "exemplar fill", settings: { scale: 0.5 }, ...common, seed: 1, takes: 3 },
  ]);
});
