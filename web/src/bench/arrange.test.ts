import { describe, expect, it } from "vitest";
import { agreementWords, columnsFor, settingWords, stepIn } from "./arrange";

describe("the grid of the Spread", () => {
  it("makes the stages as large as they can be", () => {
    expect(columnsFor(2, 1280, 600)).toBe(2);
    expect(columnsFor(6, 1280, 660)).toBe(3);
    expect(columnsFor(13, 1280, 660)).toBe(5);
    expect(columnsFor(1, 1280, 660)).toBe(1);
  });
  it("is walked by arrows and stays at its edges", () => {
    expect(stepIn(6, 3, 0, "ArrowRight")).toBe(1);
    expect(stepIn(6, 3, 1, "ArrowDown")).toBe(4);
    expect(stepIn(5, 3, 3, "ArrowDown")).toBe(3);
    expect(stepIn(6, 3, 0, "ArrowLeft")).toBe(0);
    expect(stepIn(6, 3, 5, "ArrowRight")).toBe(5);
  });
});

describe("what is said of an attempt", () => {
  it("names a setting with both values", () => {
    expect(settingWords({ name: "margin", before: 3, after: 8 })).toBe("margin 8 instead of 3");
    expect(settingWords({ name: "take", before: null, after: 2 })).toBe("take 2 (not set there)");
    expect(settingWords({ name: "offset", before: [1, 2], after: null })).toBe(
      "no offset (there 1 2)",
    );
  });
  it("puts agreement into words", () => {
    expect(agreementWords(1)).toBe("people and machine agree (tau 1.00)");
    expect(agreementWords(-0.6)).toBe("people and machine disagree (tau -0.60)");
  });
});
