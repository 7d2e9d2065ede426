import { expect, test } from "vitest";
import { reduce, started } from "./state";

test("what was seen of a cell adds up, and seeing it again changes nothing", () => {
  const one = reduce(started(1), { type: "saw", cell: 1, what: { original: true } });
  const both = reduce(one, { type: "saw", cell: 1, what: { attempt: true } });
  expect(both.seen[1]).toEqual({ original: true, attempt: true });
  expect(reduce(both, { type: "saw", cell: 1, what: { original: true } })).toBe(both);
});

test("what lies outside every region is left when one goes elsewhere", () => {
  const looked = reduce(started(1), { type: "outside", outside: "4.0" });
  expect(reduce(looked, { type: "go", cell: 2 })).toMatchObject({ cell: 2, outside: null });
});

test("a finding is open for its own cell only", () => {
  const open = reduce(started(1), { type: "open finding", cell: 1, finding: 9 });
  expect(open.finding).toEqual({ 1: 9 });
  expect(reduce(open, { type: "go", cell: 2 }).finding[2]).toBeUndefined();
});

test("one dialog is open at a time", () => {
  const first = reduce(started(1), { type: "dialog", dialog: "bar" });
  expect(reduce(first, { type: "dialog", dialog: "history" }).dialog).toBe("history");
});
