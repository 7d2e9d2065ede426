import { describe, expect, it } from "vitest";
import { ciede2000, differing, lab, lineOf, sideOfA, whiteAt } from "./compare";

const inside = (
  polygon: readonly (readonly [number, number])[],
  [x, y]: readonly [number, number],
) =>
  polygon.reduce((is, [x1, y1], i) => {
    const [x2, y2] = polygon[(i + 1) % polygon.length] ?? [0, 0];
    return y1 > y !== y2 > y && x < ((x2 - x1) * (y - y1)) / (y2 - y1) + x1 ? !is : is;
  }, false);

describe("comparing", () => {
  it("divides the stage by a line of any place and angle, A before it and B beyond", () => {
    expect(lineOf({ position: 0.25, angle: 0 }, 800, 600).at).toEqual([200, 300]);
    for (const angle of [0, 30, 90, 135, 200, 270, 345]) {
      const polygon = sideOfA({ position: 0.5, angle }, 800, 600);
      const [dx, dy] = [Math.cos((angle * Math.PI) / 180), Math.sin((angle * Math.PI) / 180)];
      expect(inside(polygon, [400 - 50 * dx, 300 - 50 * dy])).toBe(true);
      expect(inside(polygon, [400 + 50 * dx, 300 + 50 * dy])).toBe(false);
      for (const corner of [
        [1, 1],
        [799, 1],
        [799, 599],
        [1, 599],
      ] as const) {
        expect(inside(sideOfA({ position: 1, angle }, 800, 600), corner)).toBe(true);
        expect(inside(sideOfA({ position: 0, angle }, 800, 600), corner)).toBe(false);
      }
    }
  });

  it("measures colour differences as the published pairs have them", () => {
    const pairs: [[number, number, number], [number, number, number], number][] = [
      [[50, 2.6772, -79.7751], [50, 0, -82.7485], 2.0425],
      [[50, -1.1848, -84.8006], [50, 0, -82.7485], 1.0],
      [[50, 2.5, 0], [50, 0, -2.5], 4.3065],
      [[50, 2.5, 0], [73, 25, -18], 27.1492],
      [[60.2574, -34.0099, 36.2677], [60.4626, -34.1751, 39.4387], 1.2644],
      [[2.0776, 0.0795, -1.135], [0.9033, -0.0636, -0.5514], 0.9082],
    ];
    for (const [first, second, wanted] of pairs)
      expect(ciede2000(first, second)).toBeCloseTo(wanted, 3);
    const [l, a, b] = lab(255, 255, 255);
    expect(l).toBeCloseTo(100, 2);
    expect(Math.hypot(a, b)).toBeLessThan(0.02);
  });

  it("shows nothing where nothing differs, and which way it differs where it does", () => {
    expect(differing([90, 91, 92, 255], [90, 91, 92, 255], "absolute", 32)).toEqual([0, 0, 0, 255]);
    expect(differing([90, 90, 90, 255], [92, 89, 90, 255], "signed", 8)).toEqual([
      144, 120, 128, 255,
    ]);
    expect(differing([90, 90, 90, 255], [92, 89, 90, 255], "absolute", 4)).toEqual([8, 4, 0, 255]);
    expect(differing([0, 0, 0, 255], [255, 255, 255, 255], "CIEDE2000", 1)[0]).toBe(255);
    expect(whiteAt(8)).toBe(4);
    expect(differing([0, 0, 0, 0], [9, 9, 9, 255], "absolute", 1)[3]).toBe(0);
  });
});
