import { expect, test } from "vitest";
import type { Slip } from "../api/client";
import { late } from "../ui/slipWords";
import { byDue } from "./shelves";

const slip = (id: number, due: string | null) => ({ id, due }) as Slip;

test("what is due first comes first, what has no day last and the newest of those first", () => {
  const some = [slip(1, null), slip(2, "2027-03-02"), slip(3, null), slip(4, "2027-03-01")];
  expect(some.sort(byDue).map((one) => one.id)).toEqual([4, 2, 3, 1]);
});

test("a day is over when it has ended, not when it begins", () => {
  const noon = new Date("2027-03-02T12:00");
  expect(late("2027-03-02", noon)).toBe(false);
  expect(late("2027-03-01", noon)).toBe(true);
});
