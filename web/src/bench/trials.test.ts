import { expect, test } from "vitest";
import type { MethodDescribed } from "../api/trials";
import { boxAround, chosenRuns, offsetTo } from "./trials";

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
  const common = { grow: 2, feather: 0, grain: true, tone: false, opacity: 1 };
  const runs = chosenRuns(
    [method("gradient fill"), method("exemplar fill")],
    { "exemplar fill": { takes: 3, settings: { scale: 0.5 } } },
    common,
  );
  expect(runs).toEqual([
    { method: "exemplar fill", settings: { scale: 0.5 }, ...common, seed: 1, takes: 3 },
  ]);
});

test("what is taken from around a spot is twice as wide as the region and inside the frame", () => {
  const frame = { width: 400, height: 300 };
  expect(boxAround([10, 10, 40, 20], [200, 150], frame)).toEqual([160, 130, 80, 40]);
  expect(boxAround([10, 10, 40, 20], [390, 5], frame)).toEqual([350, 0, 50, 25]);
});
