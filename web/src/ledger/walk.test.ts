import { describe, expect, it } from "vitest";
import type { Bench, Cell } from "../api/client";
import { bestCell, nextUndecided, openingCell, step } from "./walk";

/** A bench of regions 1 to 3 and attempts 10, 20; states by "region:attempt". */
function bench(regions: Record<number, { state: string; order: number[] }>, states: Record<string, string> = {}): Bench {
  const attempts = [10, 20];
  const cells = Object.keys(regions).flatMap((region) => attempts.map((attempt) => ({
    id: Number(region) * 100 + attempt, region: Number(region), attempt, state: states[`${region}:${attempt}`] ?? "undecided",
  })));
  return { regions: Object.entries(regions).map(([id, one]) => ({ id: Number(id), ...one })), attempts: attempts.map((id) => ({ id })), cells } as unknown as Bench;
}

const three = bench({ 1: { state: "holds", order: [20, 10] }, 2: { state: "undecided", order: [20, 10] }, 3: { state: "undecided", order: [10, 20] } });

describe("walking the ledger", () => {
  it("opens on the first undecided region in the attempt that ranks best there", () => {
    expect(openingCell(three)?.id).toBe(220);
  });

  it("opens on the first region when nothing is left to decide", () => {
    expect(openingCell(bench({ 1: { state: "holds", order: [20, 10] } }))?.region).toBe(1);
  });

  it("passes over attempts that are ruled on already", () => {
    expect(bestCell(bench({ 2: { state: "undecided", order: [20, 10] } }, { "2:20": "rework" }), 2)?.attempt).toBe(10);
  });

  it("goes on to the next undecided region, round the end, and says when none is left", () => {
    expect(nextUndecided(three, 2)?.region).toBe(3);
    expect(nextUndecided(three, 3)?.region).toBe(2);
    expect(nextUndecided(bench({ 1: { state: "holds", order: [10, 20] } }), 1)).toBeUndefined();
  });

  it("steps with the arrow keys and stays at the edges", () => {
    const at = (id: number) => three.cells.find((cell) => cell.id === id) as Cell;
    expect(step(three, at(110), "ArrowRight")?.id).toBe(120);
    expect(step(three, at(120), "ArrowRight")?.id).toBe(120);
    expect(step(three, at(120), "ArrowDown")?.id).toBe(220);
    expect(step(three, at(110), "ArrowUp")?.id).toBe(110);
  });
});
