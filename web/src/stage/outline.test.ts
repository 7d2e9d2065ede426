import { describe, expect, it } from "vitest";
import { around, thinned } from "./outline";

describe("an outline", () => {
  it("is closed once, thinned evenly, and given to a tenth of a pixel", () => {
    expect(
      thinned([
        [0, 0],
        [10.04, 0],
        [10, 10],
        [0, 0],
      ]),
    ).toEqual([
      [0, 0],
      [10, 0],
      [10, 10],
    ]);
    const many = Array.from({ length: 1000 }, (_, i) => [i, i % 7]);
    expect(thinned(many)).toHaveLength(334);
  });
  it("can be a ring around a spot, whose middle is the pixel's", () => {
    const ring = around([100, 50], 20);
    expect(ring).toHaveLength(24);
    expect(ring[0]).toEqual([120.5, 50.5]);
    expect(Math.max(...ring.map(([, y = 0]) => y))).toBeCloseTo(70.5);
  });
});
