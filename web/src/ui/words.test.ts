import { expect, test } from "vitest";
import { span, usualWords } from "./words";

test("how long something takes is said in the unit that one would say it in", () => {
  expect([20, 90, 7_100, 7_200, 100_000, 172_800, 900_000].map(span)).toEqual([
    "1 minute",
    "2 minutes",
    "118 minutes",
    "2 hours",
    "28 hours",
    "2 days",
    "10 days",
  ]);
  expect(usualWords({ seconds: 14_400, low: 7_200, high: 18_000, of: 7 })).toBe(
    "usually 4 hours (2 hours to 5 hours, 7 rounds)",
  );
});
