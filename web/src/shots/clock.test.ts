import { describe, expect, it } from "vitest";
import { ahead, between, called, frameAt, rangeWords, shownBy, skipped, whole } from "./clock";

const shot = whole(72);

describe("the clock of a shot", () => {
  it("shows frame n for the n-th part of a second, round and round", () => {
    expect(frameAt(0, 0, 24, shot)).toBe(0);
    expect(frameAt(0, 1 / 24, 24, shot)).toBe(1);
    expect(frameAt(10, 1, 24, shot)).toBe(34);
    expect(frameAt(70, 3 / 24, 24, shot)).toBe(1);
    expect(frameAt(5, 1, 24, { first: 4, last: 6 })).toBe(5);
  });

  it("plays at half and quarter speed by the same rule", () => {
    expect(frameAt(0, 1, 12, shot)).toBe(12);
    expect(frameAt(0, 1, 6, shot)).toBe(6);
  });

  it("counts every frame that was left out, also where it begins anew", () => {
    expect(skipped(3, 4, shot)).toBe(0);
    expect(skipped(3, 6, shot)).toBe(2);
    expect(skipped(71, 0, shot)).toBe(0);
    expect(skipped(71, 1, shot)).toBe(1);
    expect(skipped(5, 5, shot)).toBe(0);
  });

  it("asks for what comes next, which at the end is the beginning", () => {
    expect(ahead(70, 4, shot)).toEqual([70, 71, 0, 1]);
    expect(ahead(5, 9, { first: 4, last: 6 })).toEqual([5, 6, 4]);
  });

  it("finds the attempt's frame that shows the original's, and none where it was dropped", () => {
    expect(shownBy([], 7)).toBe(7);
    expect(shownBy([2, 3, 5], 5)).toBe(2);
    expect(shownBy([2, 3, 5], 4)).toBeNull();
    expect(shownBy([2, 2, 3], 2)).toBe(0);
  });

  it("says frames by the numbers of the files", () => {
    expect(called(0, 1001)).toBe("1001");
    expect(rangeWords(between(5, 3), 72, 1001)).toBe("frames 1004 to 1006");
    expect(rangeWords({ first: 4, last: 4 }, 72, 0)).toBe("frame 4");
    expect(rangeWords(shot, 72, 1001)).toBe("the whole shot");
  });
});
