import { describe, expect, it } from "vitest";
import { asked, begunFrom, read, rowsOf, settingsOf, written } from "./facts";

describe("settings by name", () => {
  it("are numbers, yes and no, words or lists of them", () => {
    expect(["8", "0.5", "yes", "no", "mirror", "10, 20", " "].map(read)).toEqual([
      8,
      0.5,
      true,
      false,
      "mirror",
      [10, 20],
      "",
    ]);
  });
  it("come back as they were written", () => {
    const settings = { margin: 8, feathered: false, "kept out": [10, 20], mode: "near" };
    expect(settingsOf(rowsOf(settings))).toEqual(settings);
    expect(written([1, true])).toBe("1, yes");
  });
  it("without a name are none, and terms stand by themselves", () => {
    expect(settingsOf([{ name: " ", value: "8" }])).toEqual({});
    expect(rowsOf({ terms: "any use", margin: 3 })).toEqual([{ name: "margin", value: "3" }]);
  });
});

describe("facts of an attempt", () => {
  it("begin from what was said of the method before, but for time and cost", () => {
    const known = {
      name: "Fortnimm",
      kind: "outside service" as const,
      maker: "us",
      settings: { margin: 8 },
      terms: "any use",
      left_house: true,
    };
    const facts = { ...begunFrom(known, "fortnimm"), seconds: "3" };
    expect(asked(facts)).toEqual({
      method: "Fortnimm",
      kind: "outside service",
      maker: "us",
      seconds: 3,
      cost: null,
      terms: "any use",
      left_house: true,
      cropped_when: "",
      settings: { margin: 8 },
    });
    expect(begunFrom(undefined, "by eye").kind).toBe("by hand");
  });
});
