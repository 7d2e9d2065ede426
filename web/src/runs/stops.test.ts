import { describe, expect, it } from "vitest";
import type { Run, RunStop } from "../api/runs";
import { addressOf, farWords, nextStop, offeredWords } from "./stops";

const stop = (number: number, more: Partial<RunStop> = {}): RunStop => ({
  number,
  cell: number,
  picture: 7,
  name: "Quay",
  region: 2,
  attempt: 3,
  offered: null,
  in_full: true,
  ruled: null,
  gone: false,
  ...more,
});
const run = (...stops: RunStop[]) => ({ id: 5, stops }) as unknown as Run;

describe("a run", () => {
  it("goes on to what is neither ruled nor decided elsewhere, and round to what was left", () => {
    const some = run(stop(1), stop(2, { ruled: "passes" }), stop(3, { gone: true }), stop(4));
    expect(nextStop(some, 1)?.number).toBe(4);
    expect(nextStop(some, 4)?.number).toBe(1);
    expect(nextStop(run(stop(1)), 1)).toBeUndefined();
    expect(farWords(some)).toBe("1 of 4 ruled, 1 decided elsewhere");
  });
  it("has an address for each stop, and one for its end", () => {
    expect(addressOf(5, stop(1))).toBe("/pictures/7?region=2&attempt=3&run=5");
    expect(addressOf(5, undefined)).toBe("/runs/5");
  });
  it("says how sure an offer is and what that rests on", () => {
    expect(offeredWords({ ruling: "passes", chance: 0.93, passed: 14, of: 15 })).toBe(
      "likely: passes, 93 %; 14 of 15 alike were ruled so",
    );
    expect(offeredWords({ ruling: "rework", chance: 0.04, passed: 1, of: 20 })).toBe(
      "likely: rework, 96 %; 19 of 20 alike were ruled so",
    );
    expect(offeredWords({ ruling: "rework", chance: 0.04, passed: 0, of: 0 })).toContain("nobody");
  });
});
