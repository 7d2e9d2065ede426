import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { Bench, Cell } from "../api/client";
import { cellQuery } from "../api/queries";
import { nextUndecided, step } from "../ledger/walk";
import { checkKey } from "./useFindings";

const WAYS = ["ArrowUp", "ArrowDown", "ArrowLeft", "ArrowRight"] as const;

/** Neighbours' findings are fetched ahead; their pictures are kept drawn by the stage. */
export function useNeighbours(bench: Bench, cell: Cell) {
  const client = useQueryClient();
  useEffect(() => {
    const near = WAYS.map((key) => step(bench, cell, key));
    for (const one of [...near, nextUndecided(bench, cell.region)]) {
      if (!one || one.id === cell.id) continue;
      const attempt = bench.attempts.find((some) => some.id === one.attempt);
      void client.prefetchQuery(cellQuery(one.id, checkKey(attempt)));
    }
  }, [bench, cell, client]);
  // What will be looked at next, so that its tiles are there.
  return [
    step(bench, cell, "ArrowDown"),
    nextUndecided(bench, cell.region),
    step(bench, cell, "ArrowUp"),
  ].flatMap((one) => {
    const box = bench.regions.find(
      (some) => some.id === one?.region && some.id !== cell.region,
    )?.bbox;
    const image = bench.attempts.find((some) => some.id === one?.attempt)?.image;
    return box && image
      ? [
          { image, box },
          { image: bench.original, box },
        ]
      : [];
  });
}
