import { expect, test } from "vitest";
import type { Slip } from "../api/client";
import { offeredToAll } from "./several";

const slip = (workers: (number | null)[], methods: string[]) =>
  ({ workers: workers.map((id) => ({ id, name: `person ${id}`, usual: null })), methods }) as Slip;

test("several slips go only to whom each of them can go", () => {
  const found = offeredToAll([slip([null, 1, 2], ["a", "b"]), slip([2, null], ["b"])]);
  expect(found.workers.map((one) => one.id)).toEqual([null, 2]);
  expect(found.methods).toEqual(["b"]);
});

test("no slips go to nobody", () => {
  expect(offeredToAll([])).toEqual({ workers: [], methods: [] });
});
