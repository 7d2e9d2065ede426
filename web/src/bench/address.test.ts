import { describe, expect, it } from "vitest";
import type { Bench } from "../api/client";
import { addressed, namesUnknown } from "./address";

const bench = {
  regions: [{ id: 5, number: 1, state: "undecided", order: [7] }],
  attempts: [{ id: 7, number: 2 }],
  cells: [{ id: 9, region: 5, attempt: 7, state: "undecided" }],
} as unknown as Bench;
const at = (words: string) => new URLSearchParams(words);

describe("the address of the Bench", () => {
  it("names a cell by the numbers of its region and attempt", () => {
    expect(addressed(bench, at("region=1&attempt=2"))?.id).toBe(9);
    expect(namesUnknown(bench, at("region=1&attempt=2"))).toBe(false);
  });
  it("may name an attempt that came in after the picture was last looked at", () => {
    expect(namesUnknown(bench, at("region=1&attempt=3"))).toBe(true);
    expect(namesUnknown(bench, at("region=1"))).toBe(false);
  });
  it("opens at the first undecided region where it names none", () => {
    expect(addressed(bench, at(""))?.id).toBe(9);
  });
});
