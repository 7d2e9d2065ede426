import { expect, test } from "vitest";
import { minutes, nextWords, shareWords } from "./words";

const share = (count: number, of: number, few = false) => ({
  count,
  of,
  low: 0.25,
  high: 0.75,
  few,
});

test("the next one is told with what is likely", () => {
  expect(nextWords("copy", "water", share(4, 9))).toBe(
    "on water, copy held in 4 of 9: 0.25 to 0.75",
  );
});

test("few are said to be few, and none to be none", () => {
  expect(shareWords(share(4, 9))).toBe("4 of 9");
  expect(shareWords(share(1, 2, true))).toBe("1 of 2, few");
  expect(shareWords(share(0, 0))).toBe("none yet");
});

test("times are read in seconds or minutes", () => {
  expect([minutes(6.6), minutes(1900), minutes(null)]).toEqual(["7 s", "32 min", "—"]);
});
