import type View from "ol/View";
import { useCallback, useEffect, useReducer, useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import type { Bench, Cell, Ruling } from "../api/client";
import { useAskTiles, useSeen } from "../api/queries";
import { useAttempts } from "../api/facts";
import { useSeconds } from "../api/seconds";
import { useWriteSlip } from "../api/slips";
import { useTrials } from "../api/trials";
import { useKeys } from "../keys";
import { Ledger } from "../ledger/Ledger";
import { Left } from "../ledger/Left";
import { nextAsked, nextUndecided } from "../ledger/walk";
import { RunBar } from "../runs/RunBar";
import { useRun } from "../runs/useRun";
import { deliveryResolution } from "../stage/view";
import { useScreen } from "../stage/screen";
import { counted } from "../ui/words";
import { addressed } from "./address";
import { AskDialog } from "./AskDialog";
import { AssembleDialog } from "./AssembleDialog";
import { BenchHeader } from "./BenchHeader";
import { CellPanel } from "./CellPanel";
import { ChangesDialog } from "./ChangesDialog";
import { ClientBarDialog } from "../ui/ClientBar";
import { FactsDialog } from "./FactsDialog";
import { HistoryDialog } from "./HistoryDialog";
import { LeaveDialog } from "./LeaveDialog";
import { PictureArea } from "./PictureArea";
import { RulingBar } from "./RulingBar";
import { reduce, started } from "./state";
import { ToolRow } from "./ToolRow";
import { Words } from "./Words";
import { TrialDialog } from "./TrialDialog";
import { repeatSources } from "./trials";
import { useAids } from "./useAids";
import { benchKeys } from "./benchKeys";
import { useBeyond } from "./useBeyond";
import { useCompare } from "./useCompare";
import { useFindings } from "./useFindings";
import { useMarks } from "./useMarks";
import { useNeighbours } from "./useNeighbours";
import { usePanning } from "./usePanning";
import { useRuling } from "./useRuling";
import { useSides } from "./useSides";
import { useSpot, type At } from "./useSpot";
import { useZoom } from "./ZoomButtons";

type Props = { bench: Bench; askedSize: number | null; stale: string | null };
const ignored = () => undefined;

function placed(bench: Bench, place: number | undefined) {
  const cell = bench.cells.find((one) => one.id === place) ?? bench.cells[0];
  const region = bench.regions.find((one) => one.id === cell?.region);
  const attempt = bench.attempts.find((one) => one.id === cell?.attempt);
  if (!cell || !region || !attempt) throw new Error("a bench without cells");
  return { cell, region, attempt };
}

export function BenchFor({ bench, askedSize, stale }: Props) {
  const [search, setSearch] = useSearchParams();
  const navigate = useNavigate();
  // The address names the cell when the page opens and follows it afterwards; the cell itself is state, because a router may take its
  // time and a ruling must never fall on the cell that was left a moment ago.
  const [state, change] = useReducer(reduce, undefined, () =>
    started(addressed(bench, search)?.id),
  );
  const { cell, region, attempt } = placed(bench, state.cell);
  const mayRule = bench.role === "supervisor";

  const zooming = useZoom();
  const judged = bench.sizes.find((one) => one.id === bench.size);
  const delivery = deliveryResolution(judged, useScreen().perMillimetre, window.devicePixelRatio);
  const compare = useCompare(bench, attempt);
  const [stage, setStage] = useState({ settled: false, zoomed: 1, image: 0 });
  const aids = useAids(compare.a.image, compare.b.image, stage.settled ? stage.image : null);
  const sides = { a: aids.as(compare.a.image, "A"), b: aids.as(compare.b.image, "B") };
  useSeen(bench.id, stage.settled);
  useAskTiles([bench.original, ...bench.attempts.map((one) => one.image)]);
  useSides(
    cell.id,
    attempt.image.id,
    stage,
    compare,
    compare.mode === "one" ? [(compare.alone ? sides.a : sides.b).id] : [sides.a.id, sides.b.id],
    change,
  );
  const [link] = useState<{ view: View | null }>({ view: null });
  const { width, height } = bench.original;
  const middle = useCallback((): At => {
    const [x, y] = link.view?.getCenter() ?? [0, 0];
    const within = (value: number, most: number) =>
      Math.max(0, Math.min(most - 1, Math.floor(value)));
    return [within(x ?? 0, width), within(-(y ?? 0), height)];
  }, [link, width, height]);
  const spot = useSpot(bench.id, [width, height], compare.a.image.id, compare.b.image.id, middle);
  usePanning(link, spot.pinned !== null);

  const onward = useRef<(cell: Cell) => void>(ignored);
  const running = useRun(cell, (stop) => {
    const to = bench.cells.find((one) => one.id === stop.cell);
    if (to) onward.current(to);
    return to !== undefined;
  });
  const ready = stage.settled && (compare.judgedSeen || compare.beating) && !running.leaving;
  const ruler = useRuling({
    bench,
    askedSize,
    cell,
    region,
    attempt,
    ready,
    left: running.left,
    seenActual: Boolean(state.seen[cell.id]?.actual),
    inRun: () => (running.id === null ? null : { run: running.id, seconds: running.seconds() }),
    onTakenBack: (one) => onward.current(one),
    onRuled: (next, from) => {
      if (running.run) return running.goOn();
      const to = nextUndecided(next, from.region);
      if (to) onward.current(to);
    },
  });
  const { forget, setTrouble } = ruler;
  const found = useFindings(bench, cell, attempt, state, change, setTrouble);
  // An outline belongs to the cell it was begun in.
  const outlining = state.marking?.cell === cell.id ? state.marking : null;
  const drewOutline = useCallback(
    (outline: number[][]) => change({ type: "mark", marking: { cell: cell.id, outline } }),
    [cell.id],
  );
  const beyond = useBeyond(bench, askedSize, attempt, found, state, change, setTrouble);
  const outside = beyond.open;
  // Marks belong to the attempt that is judged.
  const marks = useMarks(
    region,
    found,
    state,
    outlining?.outline ?? null,
    outside,
    !compare.judgedSeen,
    spot.pinned,
  );

  const choose = useCallback(
    (to: Cell) => {
      change({ type: "go", cell: to.id });
      const address = new URLSearchParams(window.location.search);
      const number = (rows: { id: number; number: number }[], id: number) =>
        String(rows.find((one) => one.id === id)?.number);
      address.set("region", number(bench.regions, to.region));
      address.set("attempt", number(bench.attempts, to.attempt));
      setSearch(address, { replace: true });
      forget();
    },
    [bench.regions, bench.attempts, setSearch, forget],
  );
  useEffect(() => {
    onward.current = choose;
  });
  const soon = [...useNeighbours(bench, cell), ...running.soon];
  const onSettled = useCallback(
    (settled: boolean, zoomed: number, image: number) => setStage({ settled, zoomed, image }),
    [],
  );
  const next = () => {
    if (running.run) return running.goOn();
    // Once nothing is undecided, what was folded and is asked for all the same.
    const to = nextUndecided(bench, cell.region) ?? nextAsked(bench, cell);
    if (to) choose(to);
    else setTrouble("Nothing is undecided in this picture.");
  };

  const writeSlip = useWriteSlip();
  const sendable = mayRule && bench.failed.includes(attempt.id) ? attempt.number : null;
  const sendBack = () => {
    setTrouble(null);
    writeSlip.mutate(attempt.id, {
      onSuccess: (slip) => void navigate(`/slips/${slip.id}`),
      onError: (error) => setTrouble(error.message),
    });
  };
  const spreadAt = `/pictures/${bench.id}/regions/${region.number}/spread?attempt=${attempt.number}${askedSize === null ? "" : `&size=${askedSize}`}`;
  const { putBack } = useTrials(bench.id);
  const putBackHere = () => {
    const reason = !mayRule
      ? "Only a supervisor of this job puts the original back."
      : beyond.list.length === 0
        ? "Nothing was found to have changed outside the regions of this attempt."
        : null;
    setTrouble(reason);
    if (!reason && !putBack.isPending)
      putBack.mutate(attempt.id, {
        onSuccess: () => change({ type: "dialog", dialog: "trial" }),
        onError: (error) => setTrouble(error.message),
      });
  };
  const asOffered = () => {
    const offered = running.stop?.ruled === null ? running.stop.offered : null;
    if (offered) ruler.rule(offered.ruling as Ruling);
    else setTrouble("Nothing is offered here.");
  };
  // In a run the last ruling may stand in another picture.
  const takeBack = () =>
    running.run && !ruler.last && !ruler.busy ? running.goBack(setTrouble) : ruler.takeBack();
  const outlinesAt = `/pictures/${bench.id}/outlines?region=${region.number}`;
  useKeys(
    benchKeys({
      handlers: { ...compare.keys, ...aids.keys, ...zooming.keys, pin: spot.pin, next },
      mayRule,
      found,
      beyond,
      onLook: zooming.again,
      ruler,
      change,
      outlining: outlining !== null,
      cell: cell.id,
      ruled: cell.verdict !== null || ruler.last !== null,
      sendable: sendable !== null && !writeSlip.isPending,
      sendBack,
      asOffered,
      takeBack,
      putBack: putBackHere,
      go: (to) => void navigate(to),
      spreadAt,
      outlinesAt,
      signOffAt: `/pictures/${bench.id}/sign-off`,
      siblingsAt: bench.siblings
        ? `/pictures/${bench.id}/regions/${region.number}/siblings?attempt=${attempt.number}`
        : null,
    }),
  );

  const { zoom, looks } = zooming;
  const lookedAt = `${outside ? `outside ${outside.number}` : region.id}|${zoom}|${looks}|${zoom === "delivery" ? delivery : ""}`;
  // The other side's aid is drawn once the one that is looked at stands.
  const neighbours = [
    sides.b,
    ...(stage.settled ? [sides.a] : []),
    bench.original,
    ...bench.attempts.map((one) => one.image),
  ];
  const showAttempt = (made: number) => {
    const to = bench.cells.find((one) => one.attempt === made && one.region === region.id);
    if (to) choose(to);
  };
  const attempts = useAttempts(bench.id, askedSize);
  const seconds = useSeconds(bench.id, askedSize);
  const closed = () => change({ type: "dialog", dialog: null });
  return (
    <div className="bench">
      <BenchHeader
        bench={bench}
        sendable={sendable}
        sending={writeSlip.isPending}
        spreadAt={spreadAt}
        outlinesAt={outlinesAt}
        onDialog={(dialog) => change({ type: "dialog", dialog })}
        onSendBack={sendBack}
      />
      <aside
        className="flex min-h-0 flex-col border-r pl-3 pr-1 py-2"
        style={{ borderColor: "var(--line)" }}
        aria-label="Ledger and findings"
      >
        <div className="scrolls max-h-[45%] shrink-0 pr-2">
          <Ledger bench={bench} current={cell} onChoose={choose} />
          <Left
            left={bench.left}
            withdrawn={bench.withdrawn}
            mayRule={mayRule}
            onAttempt={(one) =>
              attempts.again.mutate(one, { onError: (error) => setTrouble(error.message) })
            }
            onAgain={(one) =>
              seconds.again.mutate(one, { onError: (error) => setTrouble(error.message) })
            }
          />
        </div>
        <div
          className="scrolls rule-top mt-1 min-h-0 flex-1 pt-1 pr-2"
          tabIndex={0}
          role="region"
          aria-label="Findings"
        >
          <CellPanel
            bench={bench}
            cell={cell}
            attempt={attempt}
            region={region}
            state={state}
            change={change}
            found={found}
            beyond={beyond}
            ruler={ruler}
            onWithdraw={(look) =>
              seconds.withdraw.mutate(look, { onError: (error) => setTrouble(error.message) })
            }
            ready={ready}
            turned={compare.turned}
            outlining={outlining}
            pinned={spot.pinned}
            onPin={spot.pin}
            onLook={zooming.again}
            onPutBack={putBackHere}
          />
        </div>
      </aside>
      <main
        className="grid min-h-0 min-w-0 grid-rows-[auto_1fr_auto]"
        aria-label="The picture"
        data-mode={compare.beating ? "beat" : compare.mode}
      >
        <ToolRow bench={bench} attempt={attempt} compare={compare} aids={aids} zooming={zooming} />
        <PictureArea
          region={region}
          compare={compare}
          aids={aids}
          spot={spot}
          sides={sides}
          link={link}
          looking={{
            zoom: outside ? "region" : zoom,
            box: outside ? outside.bbox : region.bbox,
            at: lookedAt,
            delivery,
          }}
          marks={marks}
          ready={neighbours}
          soon={soon}
          seen={{ zoom: zooming, zoomed: stage.zoomed, size: judged }}
          onSettled={onSettled}
          onOutline={outlining ? drewOutline : null}
        />
      </main>
      <footer className="col-span-2 min-w-0">
        {running.run && (
          <RunBar
            run={running.run}
            stop={running.stop}
            ready={ready && !ruler.busy}
            onOffered={asOffered}
            onGo={running.goTo}
          />
        )}
        <RulingBar
          bench={bench}
          cell={cell}
          mayRule={mayRule}
          ready={ready}
          hidden={compare.turned && !compare.judgedSeen && !compare.beating}
          busy={ruler.busy}
          trouble={ruler.trouble ?? stale}
          asking={ruler.asking}
          last={ruler.last}
          onRule={ruler.rule}
          onTakeBack={takeBack}
          onWords={() => change({ type: "dialog", dialog: "words" })}
          onNext={next}
        />
      </footer>
      <AssembleDialog
        bench={bench}
        open={state.dialog === "assemble"}
        onClose={closed}
        onShow={showAttempt}
      />
      <TrialDialog
        bench={bench}
        region={region}
        attempt={attempt}
        pinned={spot.pinned}
        sources={repeatSources(found.ordered)}
        open={state.dialog === "trial"}
        onClose={closed}
        onShow={showAttempt}
      />
      <ChangesDialog
        bench={bench}
        attempt={attempt}
        sideA={compare.other.attempt}
        open={state.dialog === "changes"}
        onClose={closed}
      />
      <AskDialog
        bench={bench}
        askedSize={askedSize}
        cell={cell}
        region={region}
        open={state.dialog === "ask"}
        onClose={closed}
      />
      <FactsDialog
        key={attempt.id}
        bench={bench}
        askedSize={askedSize}
        attempt={attempt}
        open={state.dialog === "facts"}
        onClose={closed}
      />
      <LeaveDialog
        bench={bench}
        askedSize={askedSize}
        region={region}
        open={state.dialog === "leave"}
        onClose={closed}
      />
      <Words
        bench={bench}
        askedSize={askedSize}
        cell={cell}
        last={ruler.last?.cell ?? null}
        found={found}
        state={state}
        change={change}
      />
      <ClientBarDialog
        job={{ id: bench.job_id, name: bench.job, bar: bench.bar }}
        mayRule={bench.role === "supervisor"}
        open={state.dialog === "bar"}
        onClose={closed}
      />
      <HistoryDialog picture={bench.id} open={state.dialog === "history"} onClose={closed} />
      <span className="sr-only" aria-live="polite">
        {counted(found.ordered.length, "finding")}
      </span>
    </div>
  );
}
