import { describe, expect, it } from "vitest";
import { framesIn, rangesWords } from "./ranges";

describe("ranges of frames", () => {
  it("are said as the files are numbered", () => {
    expect(rangesWords([{ first: 0, last: 23 }], 24, 101)).toBe("the whole shot");
    expect(rangesWords([{ first: 3, last: 3 }], 24, 101)).toBe("frame 104");
    const two = [
      { first: 3, last: 9 },
      { first: 12, last: 12 },
    ];
    expect(rangesWords(two, 24, 101)).toBe("frames 104 to 110 and 113");
    expect(rangesWords([], 24, 101)).toBe("no frames");
  });
  it("are read from a list, each once", () => {
    expect(framesIn("104, 110;104", 101)).toEqual([3, 9]);
    expect(framesIn("", 101)).toEqual([]);
    expect(framesIn("7", 101)).toBeNull();
    expect(framesIn("104, x", 101)).toBeNull();
  });
});
