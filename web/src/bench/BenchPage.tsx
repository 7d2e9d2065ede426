import { useQuery, useQueryClient } from "@tanstack/react-query";
import type View from "ol/View";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import type { Answer, Attempt, Bench, Cell } from "../api/client";
import {
  benchQuery,
  cellQuery,
  useAnswer,
  useAskCheck,
  useOwnFlaws,
  useWriteSlip,
} from "../api/queries";
import { useKeys } from "../keys";
import { Ledger } from "../ledger/Ledger";
import { bestCell, nextAsked, nextUndecided, openingCell, step } from "../ledger/walk";
import { Stage } from "../stage/Stage";
import { drawn, outlined, ringed } from "../stage/evidence";
import { stateWords as slipStates } from "../slips/SlipsPage";
import { Key } from "../ui/Key";
import { Notice } from "../ui/Notice";
import { OutcomeShape } from "../ui/outcome";
import { deliveryResolution } from "../stage/view";
import { useScreen } from "../ui/screen";
import { counted, seconds } from "../ui/words";
import { AidControls, Seen } from "./AidControls";
import { Findings, inOrder } from "./Findings";
import { AssembleDialog } from "./AssembleDialog";
import { ChangesDialog } from "./ChangesDialog";
import { ClientBarDialog } from "./ClientBar";
import { OwnFlawForm, OwnFlaws } from "./OwnFlaws";
import { CompareBar, TurnRound } from "./CompareBar";
import { HistoryDialog } from "./HistoryDialog";
import { Outside } from "./Outside";
import { RulingBar } from "./RulingBar";
import { Reading } from "./Reading";
import { useAids } from "./useAids";
import { useCompare } from "./useCompare";
import { ZoomButtons, useZoom } from "./ZoomButtons";
import { useRuling } from "./useRuling";
import { useSpot, type At } from "./useSpot";

const noMarks: never[] = [];
const noImages: never[] = [];
const ignored = () => undefined;
/** What was seen of a cell: the original, the attempt, the attempt at 100 %. */
type Seeing = { original?: boolean; attempt?: boolean; actual?: boolean };
/** Half of the stage in whole and even pixels, so that at 100 % both halves show the picture's own pixels. */
const half = { width: "round(down, 50% - 1px, 2px)" };

/** A check's identity for a cell's findings: another check, or another state of it, is another key. */
const checkKey = (attempt: Attempt | undefined) =>
  `${attempt?.check_of?.id ?? "none"}:${attempt?.check_of?.state ?? ""}`;

export function BenchPage() {
  const { id } = useParams();
  const [search] = useSearchParams();
  const wanted = search.get("size");
  const size = wanted && /^\d+$/.test(wanted) ? Number(wanted) : null;
  const picture = Number(id);
  const bench = useQuery(benchQuery(picture, size));
  if (bench.isPending) return <Notice title="Laying out the picture …" busy />;
  if (!bench.data)
    return (
      <Notice title="The picture cannot be shown" alert>
        {bench.error?.message}
        <p>
          <button type="button" className="plain" onClick={() => void bench.refetch()}>
            try again
          </button>{" "}
          <Link to="/">to the desk</Link>
        </p>
      </Notice>
    );
  if (bench.data.regions.length === 0)
    return (
      <Notice title="No regions yet">
        Nothing in this picture is marked to be removed.{" "}
        <p>
          <Link to="/">to the desk</Link>
        </p>
      </Notice>
    );
  if (bench.data.attempts.length === 0)
    return (
      <Notice title="No attempts yet">
        No result has come in for this picture.{" "}
        <p>
          <Link to="/">to the desk</Link>
        </p>
      </Notice>
    );
  return (
    <BenchFor
      key={picture}
      bench={bench.data}
      askedSize={size}
      stale={bench.isError ? bench.error.message : null}
    />
  );
}

function BenchFor({
  bench,
  askedSize,
  stale,
}: {
  bench: Bench;
  askedSize: number | null;
  stale: string | null;
}) {
  const [search, setSearch] = useSearchParams();
  const navigate = useNavigate();
  const client = useQueryClient();
  // The address names the cell when the page opens and follows it afterwards; the cell itself is state, because a router may take its
  // time and a ruling must never fall on the cell that was left a moment ago.
  const [place, setPlace] = useState(
    () =>
      (
        bench.cells.find(
          (cell) =>
            String(bench.regions.find((one) => one.id === cell.region)?.number) ===
              search.get("region") &&
            String(bench.attempts.find((one) => one.id === cell.attempt)?.number) ===
              search.get("attempt"),
        ) ?? openingCell(bench)
      )?.id,
  );
  const current = bench.cells.find((cell) => cell.id === place) ?? bench.cells[0];
  if (!current) throw new Error("a bench without cells");
  const region = bench.regions.find((one) => one.id === current.region);
  const attempt = bench.attempts.find((one) => one.id === current.attempt);
  if (!region || !attempt) throw new Error("a cell without its region or attempt");
  const mayRule = bench.role === "supervisor";

  const zooming = useZoom();
  const { zoom, looks } = zooming;
  const judged = bench.sizes.find((one) => one.id === bench.size);
  const delivery = deliveryResolution(judged, useScreen().perMillimetre, window.devicePixelRatio);
  const compare = useCompare(bench, attempt);
  const swapped = compare.alone;
  const [stage, setStage] = useState({ settled: false, zoomed: 1, image: 0 });
  const aids = useAids(compare.a.image, compare.b.image, stage.settled ? stage.image : null);
  const [sideA, sideB] = [aids.as(compare.a.image, "A"), aids.as(compare.b.image, "B")];
  const shown = swapped ? sideA : sideB;
  const [link] = useState<{ view: View | null }>({ view: null });
  const [bare, setBare] = useState(false);
  const [seen, setSeen] = useState<Record<number, Seeing>>({});
  const seenHere = seen[current.id];
  const saw = useCallback(
    (cell: number, what: Seeing) =>
      setSeen((old) =>
        (Object.keys(what) as (keyof Seeing)[]).every((one) => old[cell]?.[one])
          ? old
          : { ...old, [cell]: { ...old[cell], ...what } },
      ),
    [],
  );
  const [selected, setSelected] = useState<Record<number, number | null>>({});
  const [history, setHistory] = useState(false);
  const [assembling, setAssembling] = useState(false);
  const [changesOpen, setChangesOpen] = useState(false);
  const [barOpen, setBarOpen] = useState(false);
  const [marking, setMarking] = useState<{ cell: number; outline: number[][] | null } | null>(null);
  const [ownChosen, setOwnChosen] = useState<number | null>(null);
  const [beyondShown, setBeyondShown] = useState<string | null>(null);
  const askCheck = useAskCheck(bench.id);
  const writeSlip = useWriteSlip();

  const middle = useCallback((): At => {
    const [x, y] = link.view?.getCenter() ?? [0, 0];
    return [
      Math.max(0, Math.min(bench.original.width - 1, Math.floor(x ?? 0))),
      Math.max(0, Math.min(bench.original.height - 1, Math.floor(-(y ?? 0)))),
    ];
  }, [link, bench.original.width, bench.original.height]);
  const spot = useSpot(
    bench.id,
    [bench.original.width, bench.original.height],
    compare.a.image.id,
    compare.b.image.id,
    middle,
  );

  const ready = stage.settled && (compare.judgedSeen || compare.beating);
  const onward = useRef<(cell: Cell) => void>(ignored);
  const ruler = useRuling({
    bench,
    askedSize,
    cell: current,
    region,
    attempt,
    ready,
    seenActual: Boolean(seenHere?.actual),
    onTakenBack: (cell) => onward.current(cell),
    onRuled: (next, from) => {
      const to = nextUndecided(next, from.region);
      if (to) onward.current(to);
    },
  });
  const { setTrouble, forget } = ruler;

  const detailQuery = cellQuery(current.id, checkKey(attempt));
  const detail = useQuery(detailQuery);
  const answer = useAnswer(detailQuery.queryKey, bench.id);
  const ownFlaws = useOwnFlaws(detailQuery.queryKey, bench.id);
  // An outline belongs to the cell it was begun in.
  const outlining = marking?.cell === current.id ? marking : null;
  const drewOutline = useCallback(
    (outline: number[][]) => setMarking({ cell: current.id, outline }),
    [current.id],
  );
  const uncovered = Boolean(seenHere?.original && seenHere.attempt) || Boolean(current.verdict);

  const choose = useCallback(
    (cell: Cell) => {
      setPlace(cell.id);
      setBeyondShown(null);
      const to = new URLSearchParams(window.location.search);
      to.set("region", String(bench.regions.find((one) => one.id === cell.region)?.number));
      to.set("attempt", String(bench.attempts.find((one) => one.id === cell.attempt)?.number));
      setSearch(to, { replace: true });
      forget();
    },
    [bench.regions, bench.attempts, setSearch, forget],
  );
  useEffect(() => {
    onward.current = choose;
  });

  const onSettled = useCallback(
    (settled: boolean, zoomed: number, image: number) => setStage({ settled, zoomed, image }),
    [],
  );
  const actual = stage.settled && stage.zoomed >= 0.999;
  useEffect(() => {
    if (!stage.settled || compare.mode === "difference") return;
    const both = compare.mode !== "one";
    if (compare.other.attempt === null && (both || !compare.judgedSeen))
      saw(current.id, { original: true });
    if (compare.judgedSeen)
      saw(
        current.id,
        actual && (both ? [sideA.id, sideB.id] : [shown.id]).includes(attempt.image.id)
          ? { attempt: true, actual: true }
          : { attempt: true },
      );
  }, [
    stage.settled,
    actual,
    current.id,
    compare.other.attempt,
    compare.judgedSeen,
    compare.mode,
    sideA.id,
    sideB.id,
    shown.id,
    attempt.image.id,
    saw,
  ]);

  // Neighbours' findings are fetched ahead; their pictures are kept drawn by the stage.
  useEffect(() => {
    const near = (["ArrowUp", "ArrowDown", "ArrowLeft", "ArrowRight"] as const).map((key) =>
      step(bench, current, key),
    );
    for (const cell of [...near, nextUndecided(bench, current.region)]) {
      if (cell && cell.id !== current.id)
        void client.prefetchQuery(
          cellQuery(cell.id, checkKey(bench.attempts.find((one) => one.id === cell.attempt))),
        );
    }
  }, [bench, current, client]);

  const ordered = useMemo(
    () => (detail.data && uncovered ? inOrder(detail.data, bench.size ?? null) : []),
    [detail.data, uncovered, bench.size],
  );
  const chosen =
    selected[current.id] === undefined ? (ordered[0]?.id ?? null) : (selected[current.id] ?? null);
  const finding = ordered.find((one) => one.id === chosen) ?? null;
  const beyond = uncovered ? (attempt.check_of?.outside ?? []) : [];
  // Marks belong to the attempt that is judged.
  const hidden = !compare.judgedSeen;
  const outside = beyond.find((one) => `${attempt.id}.${one.number}` === beyondShown) ?? null;
  const inside = useMemo(
    () => (bare || hidden || !uncovered ? noMarks : finding ? drawn(finding) : [outlined(region)]),
    [bare, hidden, uncovered, finding, region],
  );
  const { pinned } = spot;
  const marks = useMemo(() => {
    const own = detail.data?.own.find((one) => one.id === ownChosen);
    const drawnNow = outlining?.outline
      ? [ringed(outlining.outline)]
      : own
        ? [ringed(own.polygon)]
        : null;
    const found = bare
      ? noMarks
      : drawnNow && !hidden
        ? drawnNow
        : outside && !hidden
          ? [ringed(outside.polygon)]
          : inside;
    // A pinned spot is a person's own mark: it stays whatever is seen.
    return pinned && !bare
      ? [
          ...found,
          ringed([
            [pinned[0] - 4, pinned[1] - 4],
            [pinned[0] + 5, pinned[1] - 4],
            [pinned[0] + 5, pinned[1] + 5],
            [pinned[0] - 4, pinned[1] + 5],
          ]),
        ]
      : found;
  }, [outside, bare, hidden, inside, pinned, outlining?.outline, ownChosen, detail.data?.own]);
  const walkFindings = (by: number) => {
    const at = ordered.findIndex((one) => one.id === chosen);
    const to = ordered[(at + by + ordered.length) % Math.max(1, ordered.length)];
    if (to) setSelected((old) => ({ ...old, [current.id]: to.id }));
  };
  const say = (said: Answer) => {
    if (!finding || !mayRule || answer.isPending) return;
    answer.mutate(
      { finding: finding.id, answer: finding.answer === said ? "unread" : said },
      { onError: (error) => setTrouble(error.message) },
    );
  };

  const next = () => {
    // Once nothing is undecided, what was folded and is asked for all the same.
    const to = nextUndecided(bench, current.region) ?? nextAsked(bench, current);
    if (to) choose(to);
  };

  const spreadAt = `/pictures/${bench.id}/regions/${region.number}/spread?attempt=${attempt.number}${askedSize === null ? "" : `&size=${askedSize}`}`;
  const sendable = mayRule && bench.failed.includes(attempt.id);
  const sendBack = () => {
    if (!sendable || writeSlip.isPending) return;
    setTrouble(null);
    writeSlip.mutate(attempt.id, {
      onSuccess: (slip) => void navigate(`/slips/${slip.id}`),
      onError: (error) => setTrouble(error.message),
    });
  };
  const slipHere = bench.slips
    .filter((one) => one.attempt === attempt.id && one.regions.includes(region.id))
    .at(-1);

  useKeys({
    ...compare.keys,
    ...aids.keys,
    pin: spot.pin,
    bare: (down) => setBare(down),
    ...zooming.keys,
    spread: () => void navigate(spreadAt),
    nextFinding: () => walkFindings(1),
    previousFinding: () => walkFindings(-1),
    confirmed: () => say("confirmed"),
    notThere: () => say("not there"),
    acceptable: () => say("acceptable"),
    passes: () => ruler.rule("passes"),
    passesAtSize: () => ruler.rule("passes at size"),
    rework: () => ruler.rule("rework"),
    rebuild: () => ruler.rule("rebuild"),
    ownFlaw: () => {
      if (mayRule) {
        ownFlaws.mark.reset();
        setMarking(outlining ? null : { cell: current.id, outline: null });
      }
    },
    bar: () => setBarOpen(true),
    changes: () => setChangesOpen(true),
    assemble: () => setAssembling(true),
    takeBack: ruler.takeBack,
    next,
    sendBack,
    desk: () => void navigate("/"),
    history: () => setHistory(true),
  });

  // The other side's aid is drawn once the one that is looked at stands.
  const neighbours = [
    sideB,
    ...(stage.settled ? [sideA] : []),
    bench.original,
    ...bench.attempts.map((one) => one.image),
  ];
  const soon = [
    step(bench, current, "ArrowDown"),
    nextUndecided(bench, region.id),
    step(bench, current, "ArrowUp"),
  ].flatMap((cell) => {
    const box = bench.regions.find((one) => one.id === cell?.region && one.id !== region.id)?.bbox,
      image = bench.attempts.find((one) => one.id === cell?.attempt)?.image;
    return box && image
      ? [
          { image, box },
          { image: bench.original, box },
        ]
      : [];
  });
  const lookedAt = `${outside ? `outside ${outside.number}` : region.id}|${zoom}|${looks}|${zoom === "delivery" ? delivery : ""}`;
  const check = attempt.check_of;
  const best = bestCell(bench, region.id);

  return (
    <div className="grid h-full grid-cols-[296px_1fr] grid-rows-[44px_1fr_auto]">
      <header
        className="col-span-2 flex items-center gap-4 border-b px-3"
        style={{ borderColor: "var(--line)" }}
      >
        <Link to="/" className="plain text-inherit no-underline">
          desk <Key action="desk" />
        </Link>
        <h1 className="truncate text-[16px] font-normal">
          {bench.job}{" "}
          <strong>
            {String(bench.number).padStart(2, "0")} {bench.name}
          </strong>
        </h1>
        <label className="ml-auto flex items-center gap-2">
          judged for
          <select
            className="field"
            value={bench.size ?? ""}
            onChange={(event) => {
              const to = new URLSearchParams(window.location.search);
              to.set("size", event.target.value);
              setSearch(to, { replace: true });
            }}
          >
            {bench.sizes.map((one) => (
              <option key={one.id} value={one.id}>
                {one.name}
              </option>
            ))}
          </select>
        </label>
        {bench.regions.length > 1 && bench.attempts.length > 1 && (
          <button
            type="button"
            className="plain whitespace-nowrap"
            onClick={() => setAssembling(true)}
          >
            assemble <Key action="assemble" />
          </button>
        )}
        <button type="button" className="plain whitespace-nowrap" onClick={() => setBarOpen(true)}>
          bar{Object.keys(bench.bar).length ? `: ${Object.keys(bench.bar).length}` : ""}{" "}
          <Key action="bar" />
        </button>
        {sendable && (
          <button
            type="button"
            className="plain whitespace-nowrap"
            disabled={writeSlip.isPending}
            onClick={sendBack}
          >
            send attempt {attempt.number} back <Key action="sendBack" />
          </button>
        )}
        <Link to={spreadAt} className="plain whitespace-nowrap text-inherit no-underline">
          spread <Key action="spread" />
        </Link>
        <button type="button" className="plain" onClick={() => setHistory(true)}>
          history <Key action="history" />
        </button>
        <span
          role="status"
          className="flex items-center gap-1 whitespace-nowrap px-1"
          style={
            bench.undecided.length
              ? { background: "var(--await)", color: "#000", border: "1px solid #000" }
              : undefined
          }
        >
          {bench.done
            ? `done: attempt ${bench.attempts.find((one) => one.id === bench.done)?.number} holds everywhere`
            : bench.undecided.length
              ? `${bench.undecided.length} undecided`
              : bench.state}
        </span>
      </header>

      <aside
        className="row-span-2 flex min-h-0 flex-col border-r px-3 py-2"
        style={{ borderColor: "var(--line)" }}
        aria-label="Ledger and findings"
      >
        <div className="max-h-[45%] shrink-0 overflow-auto">
          <Ledger bench={bench} current={current} onChoose={choose} />
        </div>
        <div
          className="rule-top mt-1 min-h-0 flex-1 overflow-auto pt-1"
          tabIndex={0}
          role="region"
          aria-label="Findings"
        >
          <h2 className="text-[16px]">
            {region.name} in attempt {attempt.number}
          </h2>
          <p className="m-0 mb-1 text-[13px]">
            {attempt.method}, {attempt.kind}
            {attempt.seconds !== null ? `, ${seconds(attempt.seconds)}` : ""}
            {attempt.cost ? `, ${attempt.cost}` : ""}
            {best?.id === current.id ? "; ranks best here" : ""}
            {region.backdrop ? `; on ${region.backdrop}` : ""}{" "}
            {bench.attempts.length > 1 && (
              <button
                type="button"
                className="plain px-1 py-0 text-[13px]"
                onClick={() => setChangesOpen(true)}
              >
                what changed <Key action="changes" />
              </button>
            )}
          </p>
          {current.asked && (
            <p className="m-0">
              Not needed any more, but asked for all the same: one folded cell in twenty is, by lot,
              to see whether the order was right.
            </p>
          )}
          {current.cold_looks > 0 && (
            <p className="m-0 text-[13px]">
              noticed in {current.noticed} of {counted(current.cold_looks, "cold look")}
            </p>
          )}
          {current.outcome && (
            <p className="m-0 flex items-center gap-2">
              <OutcomeShape word={current.outcome} />{" "}
              <span>
                sent back; now: <strong>{current.outcome}</strong>{" "}
                <Link to={`/slips/${attempt.slip}`}>the slip</Link>
              </span>
            </p>
          )}
          {current.verdict?.carried && (
            <p className="m-0">
              Passed in attempt{" "}
              {bench.attempts
                .filter((one) => attempt.made_from.includes(one.id))
                .map((one) => one.number)
                .join(", ")}
              ; every pixel here is the same, so the pass came over.
            </p>
          )}
          {slipHere && !current.outcome && (
            <p className="m-0">
              <Link to={`/slips/${slipHere.id}`}>slip {slipHere.round}</Link>:{" "}
              {slipStates[slipHere.state] ?? slipHere.state}
            </p>
          )}
          {(check?.state === "waiting" || check?.state === "running") && (
            <p role="status" className="m-0">
              Being checked{check.words ? `: ${check.words}` : ""}{" "}
              <progress
                className="block h-2 w-full"
                max={1}
                value={check.progress}
                aria-label="check"
                style={{ accentColor: "#000" }}
              />
            </p>
          )}
          {check?.state === "failed" && (
            <p role="alert" className="m-0">
              The check failed: {check.reason}.{" "}
              {mayRule && (
                <button type="button" className="plain" onClick={() => askCheck.mutate(attempt.id)}>
                  check again
                </button>
              )}
            </p>
          )}
          {check?.state === "done" && check.overall === null && (
            <p role="alert" className="m-0">
              Cannot be judged by the machine: {check.reason}.
            </p>
          )}
          {check?.state === "done" &&
            check.about.map((words) => (
              <p key={words} className="m-0 text-[13px]">
                {words}
              </p>
            ))}
          {!check && (
            <p className="m-0">
              Not checked.{" "}
              {mayRule && (
                <button type="button" className="plain" onClick={() => askCheck.mutate(attempt.id)}>
                  check it
                </button>
              )}
            </p>
          )}
          {check?.state === "done" && check.overall !== null && !uncovered && (
            <p className="m-0">
              Look first: findings are shown once you have seen both sides here.{" "}
              {compare.turned ? (
                <>
                  Hold <Key action="swap" /> for the attempt.
                </>
              ) : (
                <>
                  Hold <Key action="swap" /> for the original.
                </>
              )}{" "}
              <button
                type="button"
                className="plain"
                onClick={() => saw(current.id, { original: true, attempt: true })}
              >
                show findings
              </button>
            </p>
          )}
          {detail.isError && (
            <p role="alert" className="m-0">
              {detail.error.message}{" "}
              <button type="button" className="plain" onClick={() => void detail.refetch()}>
                try again
              </button>
            </p>
          )}
          {uncovered &&
            detail.data?.checked &&
            mayRule &&
            current.state === "undecided" &&
            (detail.data.covered[String(bench.size)] ?? 0) >= 0.5 && (
              <p className="m-0 flex items-center gap-2">
                What was found covers{" "}
                {Math.round((detail.data.covered[String(bench.size)] ?? 0) * 100)} % of the region:{" "}
                <button
                  type="button"
                  className="plain whitespace-nowrap"
                  disabled={ruler.busy || !ready}
                  onClick={() => ruler.rule("rework")}
                >
                  does not hold <Key action="rework" />
                </button>
              </p>
            )}
          {uncovered && detail.data?.checked && (
            <Findings
              detail={detail.data}
              size={bench.size ?? null}
              selected={chosen}
              mayRule={mayRule}
              onSelect={(id) =>
                setSelected((old) => ({ ...old, [current.id]: id === chosen ? null : id }))
              }
              onAnswer={(id, said) =>
                answer.mutate(
                  { finding: id, answer: said },
                  { onError: (error) => setTrouble(error.message) },
                )
              }
            />
          )}
          {uncovered && detail.data && (
            <OwnFlaws
              own={detail.data.own}
              chosen={ownChosen}
              mayRule={mayRule}
              onChoose={setOwnChosen}
              onTakeBack={(id) =>
                ownFlaws.unmark.mutate(id, { onError: (error) => setTrouble(error.message) })
              }
            />
          )}
          {outlining ? (
            <OwnFlawForm
              outline={outlining.outline}
              pinned={pinned}
              size={judged ?? null}
              busy={ownFlaws.mark.isPending}
              trouble={ownFlaws.mark.error?.message ?? null}
              onOutline={drewOutline}
              onPin={spot.pin}
              onCancel={() => setMarking(null)}
              onSave={(asked) =>
                ownFlaws.mark.mutate(
                  { cell: current.id, ...asked },
                  {
                    onSuccess: (stored) => {
                      setMarking(null);
                      setOwnChosen(stored.own.at(-1)?.id ?? null);
                      saw(current.id, { original: true, attempt: true });
                    },
                  },
                )
              }
            />
          ) : (
            mayRule && (
              <p className="rule-top m-0 py-2">
                <button
                  type="button"
                  className="plain"
                  onClick={() => setMarking({ cell: current.id, outline: null })}
                >
                  a flaw of your own <Key action="ownFlaw" />
                </button>
              </p>
            )
          )}
          {beyond.length > 0 && (
            <Outside
              outside={beyond}
              size={bench.size ?? null}
              chosen={outside?.number ?? null}
              onChoose={(number) => {
                setBeyondShown(number === null ? null : `${attempt.id}.${number}`);
                zooming.again();
              }}
            />
          )}
        </div>
      </aside>

      <main className="relative min-h-0 min-w-0" aria-label="The picture">
        <div className="absolute inset-x-0 top-0 z-10" style={{ background: "var(--ground)" }}>
          <CompareBar compare={compare} bench={bench} attempt={attempt} />
          <div
            className="flex h-[34px] items-center gap-2 border-t px-3"
            style={{ borderColor: "var(--line)" }}
          >
            <TurnRound compare={compare} />
            <AidControls aids={aids} />
            <ZoomButtons zoom={zooming} zoomed={stage.zoomed} size={judged} />
          </div>
          <Seen aids={aids} image={shown} />
        </div>
        <div
          className="absolute inset-x-0 bottom-0 z-10 flex h-[42px] items-center border-t"
          style={{ background: "var(--ground)", borderColor: "var(--line)" }}
        >
          <Reading
            reading={spot.reading}
            trouble={spot.trouble}
            pinned={pinned}
            names={[`A ${compare.a.name}`, `B ${compare.b.name}`]}
          />
        </div>
        <div
          className="absolute inset-x-0 bottom-[42px] top-[91px] flex"
          onPointerLeave={() => spot.over(null)}
        >
          {compare.mode === "beside" && (
            <div key="a" className="relative" style={half}>
              <span
                className="absolute left-2 top-1 z-10 px-1"
                style={{ background: "var(--ground)" }}
              >
                A {compare.a.name}
              </span>
              <Stage
                image={sideA}
                ready={noImages}
                marks={compare.turned ? marks : noMarks}
                zoom={zoom}
                box={region.bbox}
                at={lookedAt}
                delivery={delivery}
                onSettled={ignored}
                link={link}
                follows
                label={`${compare.a.name} beside it`}
              />
            </div>
          )}
          <div
            key="b"
            className={compare.mode === "beside" ? "border-l" : "min-w-0 flex-1"}
            style={
              compare.mode === "beside"
                ? { ...half, borderColor: "var(--line)", boxSizing: "content-box" }
                : undefined
            }
          >
            <Stage
              image={shown}
              ready={neighbours}
              soon={soon}
              marks={compare.mode === "beside" && compare.turned ? noMarks : marks}
              zoom={outside ? "region" : zoom}
              box={outside ? outside.bbox : region.bbox}
              at={lookedAt}
              delivery={delivery}
              onSettled={onSettled}
              link={link}
              onSpot={spot.over}
              onOutline={outlining ? drewOutline : null}
              wiped={compare.mode === "wipe" ? { image: sideA, wipe: compare.wipe } : null}
              onWipe={compare.setWipe}
              against={
                compare.mode === "difference"
                  ? { image: sideA, measure: compare.measure, amplified: compare.amplified }
                  : null
              }
              label={`${compare[swapped ? "a" : "b"].attempt === null ? "the original" : compare[swapped ? "a" : "b"].name} at region ${region.number}, ${region.name}`}
            />
          </div>
        </div>
      </main>

      <footer className="min-w-0">
        <RulingBar
          bench={bench}
          cell={current}
          mayRule={mayRule}
          ready={ready}
          hidden={compare.turned && hidden && !compare.beating}
          busy={ruler.busy}
          trouble={ruler.trouble ?? stale}
          asking={ruler.asking}
          last={ruler.last}
          onRule={ruler.rule}
          onTakeBack={ruler.takeBack}
          onNext={next}
        />
      </footer>
      <AssembleDialog
        bench={bench}
        open={assembling}
        onClose={() => setAssembling(false)}
        onShow={(made) => {
          const cell = bench.cells.find((one) => one.attempt === made && one.region === region.id);
          if (cell) choose(cell);
        }}
      />
      <ChangesDialog
        bench={bench}
        attempt={attempt}
        sideA={compare.other.attempt}
        open={changesOpen}
        onClose={() => setChangesOpen(false)}
      />
      <ClientBarDialog bench={bench} open={barOpen} onClose={() => setBarOpen(false)} />
      <HistoryDialog picture={bench.id} open={history} onClose={() => setHistory(false)} />
      <span className="sr-only" aria-live="polite">
        {counted(ordered.length, "finding")}
      </span>
    </div>
  );
}
