import { useCallback, useRef, useState } from "react";
import type { Attempt, Bench, Cell, Region, Ruling } from "../api/client";
import { useRule } from "../api/queries";

export type Ruler = {
  busy: boolean;
  trouble: string | null;
  setTrouble: (words: string | null) => void;
  /** Whether it asks back before passing this cell. */
  asking: boolean;
  last: { cell: number; words: string } | null;
  rule: (ruling: Ruling) => void;
  takeBack: () => void;
  forget: () => void;
};

/** The size that *passes at size* stands for: the one that shows most of those at which nothing fails, or the one judged for. */
export function atSize(bench: Bench, cell: Cell): Bench["sizes"][number] | undefined {
  return (
    bench.sizes.find((one) => one.id === cell.passes_at[0]) ??
    bench.sizes.find((one) => one.id === bench.size)
  );
}

type Given = {
  bench: Bench;
  askedSize: number | null;
  cell: Cell;
  region: Region;
  attempt: Attempt;
  /** Whether what is ruled on is drawn at full resolution, and whether it was ever seen at 100 %. */
  ready: boolean;
  seenActual: boolean;
  /** Whether one is on the way to another picture: nothing is ruled here any more. */
  left?: () => boolean;
  /** The run that it is ruled in, and how long the cell was looked at. */
  inRun?: () => { run: number; seconds: number } | null;
  onRuled: (next: Bench, from: Cell) => void;
  onTakenBack: (cell: Cell) => void;
};

/** Ruling on a cell by one key: nothing before the picture stands, one question before passing what was never seen at 100 %, the last ruling taken back,
 * also by a key that was faster than the server's answer. */
export function useRuling({
  bench,
  askedSize,
  cell,
  region,
  attempt,
  ready,
  seenActual,
  left,
  inRun,
  onRuled,
  onTakenBack,
}: Given): Ruler {
  const [last, setLast] = useState<{ cell: number; words: string } | null>(null);
  const [asked, setAsked] = useState<{ cell: number; ruling: Ruling } | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const { rule, takeBack } = useRule(bench.id, askedSize);
  const busy = rule.isPending || takeBack.isPending;
  // What a key finds must be true at the moment it is pressed, which may be between the server's answer and the next render.
  const kept = useRef<{ cell: Cell | null; underWay: boolean; takenBack: boolean }>({
    cell: null,
    underWay: false,
    takenBack: false,
  });
  const mayRule = bench.role === "supervisor";
  const giveBack = (back: Cell) => {
    kept.current = { cell: null, underWay: true, takenBack: false };
    setTrouble(null);
    takeBack.mutate(
      { cell: back.id, revision: back.revision },
      {
        onSuccess: () => {
          setLast(null);
          onTakenBack(back);
        },
        onError: (error) => {
          kept.current.cell = back;
          setTrouble(error.message);
        },
        onSettled: () => {
          kept.current.underWay = false;
        },
      },
    );
  };
  const forget = useCallback(() => {
    setTrouble(null);
    setAsked(null);
  }, []);
  return {
    busy,
    trouble,
    setTrouble,
    last,
    asking: asked?.cell === cell.id,
    forget,
    rule: (ruling) => {
      if (left?.()) return;
      if (!mayRule) return setTrouble("Only a supervisor of this job rules.");
      if (!ready)
        return setTrouble("The picture is not drawn yet; rule once it stands on the stage.");
      if (kept.current.underWay) return;
      const judged = atSize(bench, cell);
      const large =
        ruling === "passes" || (ruling === "passes at size" && (judged?.seen_whole ?? true));
      if (large && !seenActual && !(asked?.cell === cell.id && asked.ruling === ruling)) {
        setAsked({ cell: cell.id, ruling });
        return;
      }
      setAsked(null);
      setTrouble(null);
      const before = kept.current.cell;
      kept.current = { cell: null, underWay: true, takenBack: false };
      rule.mutate(
        {
          cell: cell.id,
          revision: cell.revision,
          ruling,
          size: ruling === "passes at size" ? (judged?.id ?? null) : null,
          inRun: inRun?.() ?? null,
        },
        {
          onSuccess: (next) => {
            const ruled = next.cells.find((one) => one.id === cell.id) ?? cell;
            const { takenBack } = kept.current;
            kept.current = { cell: ruled, underWay: false, takenBack: false };
            setLast({
              cell: cell.id,
              words: `region ${region.number} in attempt ${attempt.number}: ${ruling}${ruling === "passes at size" ? ` (${judged?.name})` : ""}`,
            });
            if (takenBack) giveBack(ruled);
            else onRuled(next, cell);
          },
          onError: (error) => {
            kept.current = { cell: before, underWay: false, takenBack: false };
            setTrouble(error.message);
          },
        },
      );
    },
    takeBack: () => {
      if (!mayRule) return;
      const { cell: ruled, underWay } = kept.current;
      if (underWay) kept.current.takenBack = true;
      else if (ruled)
        giveBack(
          bench.cells.find((one) => one.id === ruled.id && one.revision > ruled.revision) ?? ruled,
        );
    },
  };
}
