import type { Bench, Cell } from "../api/client";

/** The cell at a region and attempt. */
export function cellAt(bench: Bench, region: number, attempt: number): Cell | undefined {
  return bench.cells.find((cell) => cell.region === region && cell.attempt === attempt);
}

/** Where a picture opens: its first undecided region in the attempt that ranks best there; the first of all if nothing is left to decide. */
export function openingCell(bench: Bench): Cell | undefined {
  const region = bench.regions.find((one) => one.state === "undecided") ?? bench.regions[0];
  return region && bestCell(bench, region.id);
}

/** The best attempt of a region that is not ruled on yet, or the best of all. */
export function bestCell(bench: Bench, region: number): Cell | undefined {
  const order = bench.regions.find((one) => one.id === region)?.order ?? [];
  const open = order
    .map((attempt) => cellAt(bench, region, attempt))
    .find((cell) => cell?.state === "undecided");
  return open ?? cellAt(bench, region, order[0] ?? -1);
}

/** The next undecided region after this one, going round; undefined once none is left. */
export function nextUndecided(bench: Bench, after: number | undefined): Cell | undefined {
  const place = bench.regions.findIndex((one) => one.id === after);
  const round = [...bench.regions.slice(place + 1), ...bench.regions.slice(0, place + 1)];
  const found = round.find((one) => one.state === "undecided");
  return found && bestCell(bench, found.id);
}

/** The next folded cell that is asked for all the same, going round; undefined once none is left. */
export function nextAsked(bench: Bench, after: Cell): Cell | undefined {
  const place = bench.cells.findIndex((one) => one.id === after.id);
  return [...bench.cells.slice(place + 1), ...bench.cells.slice(0, place + 1)].find(
    (cell) => cell.asked && cell.id !== after.id,
  );
}

/** How many attempts the ledger has room for beside each other. */
export const ROOM = 8;

/** The attempts that stand in the ledger: all where there is room; else the newest of each source, with the one that is looked at and those that hold somewhere. */
export function standing(bench: Bench, current: number, unfolded: boolean): Bench["attempts"] {
  if (unfolded || bench.attempts.length <= ROOM) return bench.attempts;
  const newest = new Map(
    bench.attempts.map((attempt) => [`${attempt.method}|${attempt.maker}`, attempt.id]),
  );
  const holders = new Set(bench.regions.map((region) => region.holder));
  return bench.attempts.filter(
    (attempt) =>
      attempt.id === current ||
      holders.has(attempt.id) ||
      newest.get(`${attempt.method}|${attempt.maker}`) === attempt.id,
  );
}

/** One step with an arrow key; stays at the edges. */
export function step(
  bench: Bench,
  cell: Cell,
  key: "ArrowUp" | "ArrowDown" | "ArrowLeft" | "ArrowRight",
): Cell | undefined {
  const rows = bench.regions.map((region) => region.id);
  const columns = bench.attempts.map((attempt) => attempt.id);
  const row = rows.indexOf(cell.region) + (key === "ArrowDown" ? 1 : key === "ArrowUp" ? -1 : 0);
  const column =
    columns.indexOf(cell.attempt) + (key === "ArrowRight" ? 1 : key === "ArrowLeft" ? -1 : 0);
  return cellAt(bench, rows[row] ?? cell.region, columns[column] ?? cell.attempt);
}
