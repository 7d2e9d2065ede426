import { describe, expect, it } from "vitest";
import { placeOf, spotOf } from "./frame";

const stage = [1000, 600] as const,
  center = [900, -600],
  resolution = 2;

describe("a click on a picture seen cold", () => {
  it("lies where it is seen, mirrored or not", () => {
    expect(spotOf([500, 300], stage, center, resolution, false)).toEqual([900, 600]);
    expect(spotOf([600, 250], stage, center, resolution, false)).toEqual([1100, 500]);
    expect(spotOf([600, 250], stage, center, resolution, true)).toEqual([700, 500]);
  });
  it("is drawn where it was made", () => {
    for (const flipped of [false, true])
      expect(
        placeOf(
          spotOf([123, 456], stage, center, resolution, flipped),
          stage,
          center,
          resolution,
          flipped,
        ),
      ).toEqual([123, 456]);
  });
});
