import { describe, expect, it } from "vitest";
import type { Bench, Cell } from "../api/client";
import { bestCell, nextAsked, nextUndecided, openingCell, standing, step } from "./walk";

/** A bench of regions 1 to 3 and attempts 10, 20; states by "region:attempt". */
function bench(
  regions: Record<number, { state: string; order: number[] }>,
  states: Record<string, string> = {},
): Bench {
  const attempts = [10, 20];
  const cells = Object.keys(regions).flatMap((region) =>
    attempts.map((attempt) => ({
      id: Number(region) * 100 + attempt,
      region: Number(region),
      attempt,
      state: states[`${region}:${attempt}`] ?? "undecided",
    })),
  );
  return {
    regions: Object.entries(regions).map(([id, one]) => ({ id: Number(id), ...one })),
    attempts: attempts.map((id) => ({ id })),
    cells,
  } as unknown as Bench;
}

const three = bench({
  1: { state: "holds", order: [20, 10] },
  2: { state: "undecided", order: [20, 10] },
  3: { state: "undecided", order: [10, 20] },
});

describe("walking the ledger", () => {
  it("opens on the first undecided region in the attempt that ranks best there", () => {
    expect(openingCell(three)?.id).toBe(220);
  });

  it("opens on the first region when nothing is left to decide", () => {
    expect(openingCell(bench({ 1: { state: "holds", order: [20, 10] } }))?.region).toBe(1);
  });

  it("passes over attempts that are ruled on already", () => {
    expect(
      bestCell(bench({ 2: { state: "undecided", order: [20, 10] } }, { "2:20": "rework" }), 2)
        ?.attempt,
    ).toBe(10);
  });

  it("goes on to the next undecided region, round the end, and says when none is left", () => {
    expect(nextUndecided(three, 2)?.region).toBe(3);
    expect(nextUndecided(three, 3)?.region).toBe(2);
    expect(nextUndecided(bench({ 1: { state: "holds", order: [10, 20] } }), 1)).toBeUndefined();
  });

  it("goes to folded cells that are asked for all the same, round the end, and never to the one it is at", () => {
    const cells = [1, 2, 3].map((id) => ({ id, asked: id !== 2 })) as unknown as Cell[];
    const some = { cells } as unknown as Bench;
    expect(nextAsked(some, cells[0] as Cell)?.id).toBe(3);
    expect(nextAsked(some, cells[2] as Cell)?.id).toBe(1);
    expect(
      nextAsked({ cells: cells.slice(0, 1) } as unknown as Bench, cells[0] as Cell),
    ).toBeUndefined();
  });

  it("folds older attempts of a source where there is no room, but never the one looked at nor one that holds somewhere", () => {
    const attempts = Array.from({ length: 12 }, (_, i) => ({
      id: i + 1,
      number: i + 1,
      method: i % 3 === 0 ? "by hand" : "a service",
      maker: i % 3 === 2 ? "second" : "",
    }));
    const dozen = {
      attempts,
      regions: [
        { id: 1, holder: 4 },
        { id: 2, holder: null },
      ],
      cells: [],
    } as unknown as Bench;
    const shown = (current: number, unfolded = false) =>
      standing(dozen, current, unfolded).map((one) => one.id);
    expect(shown(12)).toEqual([4, 10, 11, 12]);
    expect(shown(2)).toEqual([2, 4, 10, 11, 12]);
    expect(shown(12, true)).toHaveLength(12);
    expect(standing({ ...dozen, attempts: attempts.slice(0, 8) } as Bench, 1, false)).toHaveLength(
      8,
    );
  });

  it("steps with the arrow keys and stays at the edges", () => {
    const at = (id: number) => three.cells.find((cell) => cell.id === id) as Cell;
    expect(step(three, at(110), "ArrowRight")?.id).toBe(120);
    expect(step(three, at(120), "ArrowRight")?.id).toBe(120);
    expect(step(three, at(120), "ArrowDown")?.id).toBe(220);
    expect(step(three, at(110), "ArrowUp")?.id).toBe(110);
  });
});
