import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Bench, Cell, Shapes } from "../api/client";
import { benchQuery } from "../api/queries";
import { RulingBar } from "../bench/RulingBar";
import { useRuling } from "../bench/useRuling";
import { useKeys } from "../keys";
import type { Zoom } from "../stage/view";
import { Trouble } from "../ui/Trouble";

/** Where the stage looks. */
export type Looking = { zoom: Zoom; box: readonly number[]; at: string };

type Props = {
  found: Shapes["Uncovered"];
  /** Whether the picture is drawn as it is looked at. */
  settled: boolean;
  onLook: (looking: Looking) => void;
};

/** Ruling on what was just looked at cold, region after region. */
export function RuleHere(props: Props) {
  const bench = useQuery(benchQuery(props.found.picture, null));
  const attempt = bench.data?.attempts.find((one) => one.number === props.found.attempt);
  const cells = bench.data?.cells.filter((one) => one.attempt === attempt?.id) ?? [];
  if (bench.isError) return <Trouble error={bench.error} />;
  if (!bench.data || !attempt || cells.length === 0) return null;
  return <Bar {...props} bench={bench.data} cells={cells} />;
}

const undecided = (cells: readonly Cell[]) => cells.find((one) => one.state === "undecided");

function Bar({ bench, cells, settled, onLook }: Props & { bench: Bench; cells: readonly Cell[] }) {
  const [at, setAt] = useState((undecided(cells) ?? cells[0])?.id);
  const [looked, setLooked] = useState<{ cell: number; zoom: Zoom } | null>(null);
  const [seen, setSeen] = useState<ReadonlySet<number>>(new Set());
  const cell = cells.find((one) => one.id === at) ?? cells[0];
  const region = bench.regions.find((one) => one.id === cell?.region);
  const attempt = bench.attempts.find((one) => one.id === cell?.attempt);
  if (!cell || !region || !attempt) throw new Error("a picture without cells");
  const near = looked?.cell === cell.id && (looked.zoom === "actual" || looked.zoom === "double");
  if (near && settled && !seen.has(cell.id)) setSeen(new Set([...seen, cell.id]));
  const look = (zoom: Zoom, to: Cell = cell) => {
    const box = bench.regions.find((one) => one.id === to.region)?.bbox ?? [];
    setLooked({ cell: to.id, zoom });
    onLook({ zoom, box, at: `${to.id} ${zoom} ${performance.now()}` });
  };
  const choose = (to: Cell) => {
    setAt(to.id);
    ruler.forget();
    if (looked) look(looked.zoom, to);
  };
  const ruler = useRuling({
    bench,
    askedSize: null,
    cell,
    region,
    attempt,
    ready: settled,
    seenActual: seen.has(cell.id),
    onTakenBack: choose,
    onRuled: (next) => {
      const to = undecided(next.cells.filter((one) => one.attempt === attempt.id));
      if (to) choose(to);
    },
  });
  useKeys({
    passes: () => ruler.rule("passes"),
    passesAtSize: () => ruler.rule("passes at size"),
    rework: () => ruler.rule("rework"),
    rebuild: () => ruler.rule("rebuild"),
    takeBack: ruler.takeBack,
    zoomActual: () => look("actual"),
    zoomDouble: () => look("double"),
    zoomRegion: () => look("region"),
    zoomWhole: () => look("whole"),
  });
  useEffect(() => {
    const pressed = (event: KeyboardEvent) => {
      const way = { ArrowLeft: -1, ArrowUp: -1, ArrowRight: 1, ArrowDown: 1 }[event.key];
      if (!way || event.shiftKey || document.querySelector("[role=dialog]")) return;
      event.preventDefault();
      const to = cells[(cells.indexOf(cell) + way + cells.length) % cells.length];
      if (to) choose(to);
    };
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  });
  return (
    <RulingBar
      bench={bench}
      cell={cell}
      mayRule={bench.role === "supervisor"}
      ready={settled}
      busy={ruler.busy}
      trouble={ruler.trouble}
      asking={ruler.asking}
      last={ruler.last}
      onRule={ruler.rule}
      onTakeBack={ruler.takeBack}
    />
  );
}
