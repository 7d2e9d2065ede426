import type { Bench, Cell } from "../api/client";
import { openingCell } from "../ledger/walk";

function named(bench: Bench, search: URLSearchParams): Cell | undefined {
  const region = bench.regions.find((one) => String(one.number) === search.get("region"));
  const attempt = bench.attempts.find((one) => String(one.number) === search.get("attempt"));
  return bench.cells.find((cell) => cell.region === region?.id && cell.attempt === attempt?.id);
}

/** The cell that the address names, or the one that a picture opens at. */
export function addressed(bench: Bench, search: URLSearchParams): Cell | undefined {
  return named(bench, search) ?? openingCell(bench);
}

/** Does the address name a cell that is not known yet? What is remembered of a picture may be older than the attempt one was sent to. */
export function namesUnknown(bench: Bench, search: URLSearchParams): boolean {
  return search.has("region") && search.has("attempt") && !named(bench, search);
}
