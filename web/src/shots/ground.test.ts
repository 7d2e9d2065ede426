import { describe, expect, it } from "vitest";
import { boxOf, inverse, middleOf, near, places, chained, type Affine } from "./ground";
import { ontoScreen, viewOf, zoomedAt } from "./view";

const turned: Affine = [0.9, 0.2, -0.1, 1.1, 5, -3];

describe("the ground held still", () => {
  it("goes there and back", () => {
    const [x, y] = places(inverse(turned), ...places(turned, 12, 34));
    expect(x).toBeCloseTo(12);
    expect(y).toBeCloseTo(34);
  });

  it("does one after the other", () => {
    const moved: Affine = [2, 0, 0, 2, 1, 1];
    expect(places(chained(turned, moved), 3, 4)).toEqual(places(moved, ...places(turned, 3, 4)));
  });

  it("is the homography itself at its place, and nearly so beside it", () => {
    const matrix = [1.02, 0.01, -7, -0.01, 0.99, 3, 1e-5, -2e-5, 1];
    const exact = (x: number, y: number) => {
      const w = 1e-5 * x - 2e-5 * y + 1;
      return [(1.02 * x + 0.01 * y - 7) / w, (-0.01 * x + 0.99 * y + 3) / w] as const;
    };
    const close = near(matrix, 300, 200);
    for (const [x, y, far] of [
      [300, 200, 1e-9],
      [340, 230, 0.05],
    ] as const) {
      const [u, v] = places(close, x, y);
      expect(Math.hypot(u - exact(x, y)[0], v - exact(x, y)[1])).toBeLessThan(far);
    }
  });

  it("has no middle where nothing is drawn", () => {
    expect(middleOf([])).toBeNull();
    expect(boxOf([])).toBeNull();
    expect(
      middleOf([
        [
          [0, 0],
          [10, 4],
        ],
      ]),
    ).toEqual([5, 2]);
  });
});

describe("the view of a frame", () => {
  const screen = { width: 800, height: 600 };
  const frame = { width: 1920, height: 1080 };

  it("shows all of it, or one pixel for one", () => {
    expect(viewOf("whole", screen, frame, null).scale).toBeCloseTo(800 / 1920);
    const [a, , , , e, f] = ontoScreen(viewOf(1, screen, frame, [100, 100, 40, 41]), screen);
    expect(a).toBe(1);
    // Pixels lie on pixels.
    expect([e, f].every(Number.isInteger)).toBe(true);
  });

  it("keeps what is under the pointer there when it grows", () => {
    const view = viewOf("whole", screen, frame, null);
    const at = [700, 100] as const;
    const before = places(inverse(ontoScreen(view, screen)), ...at);
    const after = places(inverse(ontoScreen(zoomedAt(view, screen, at, 1.37), screen)), ...at);
    expect(after[0]).toBeCloseTo(before[0], 6);
    expect(after[1]).toBeCloseTo(before[1], 6);
  });
});
