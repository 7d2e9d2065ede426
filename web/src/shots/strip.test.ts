import { describe, expect, it } from "vitest";
import { areaOf, runsOf } from "./strip";

describe("the strip of time", () => {
  it("draws each frame as high as it is bad, and nothing where nothing is known", () => {
    expect(areaOf([null, 0, 0.5, 1])).toBe("M2 1V0.500H3V1ZM3 1V0.000H4V1Z");
    expect(areaOf([])).toBe("");
  });

  it("puts frames next to each other together", () => {
    expect(runsOf([3, 4, 5, 9])).toEqual([
      { first: 3, last: 5 },
      { first: 9, last: 9 },
    ]);
    expect(runsOf([])).toEqual([]);
  });
});
