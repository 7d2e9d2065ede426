import { useQuery } from "@tanstack/react-query";
import type View from "ol/View";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import type { Attempt, Bench, Region, Shapes } from "../api/client";
import { aidsQuery, benchQuery, spreadQuery, usePick } from "../api/queries";
import { RulingBar } from "../bench/RulingBar";
import { useRuling } from "../bench/useRuling";
import { ZoomButtons, ZoomWords, useZoom } from "../bench/ZoomButtons";
import { useKeys } from "../keys";
import { cellAt } from "../ledger/walk";
import { Key } from "../ui/Key";
import { Notice } from "../ui/Notice";
import { StateShape, type CellState } from "../ui/marks";
import { deliveryResolution } from "../stage/view";
import { useScreen } from "../stage/screen";
import { seconds } from "../ui/words";
import { BlindPairs } from "./BlindPairs";
import { agreementWords, columnsFor, settingWords, stepIn, wholePixels } from "../bench/arrange";
import { AidedStage } from "./AidedStage";
import { DESK } from "../ui/places";

export function SpreadPage() {
  const { id, region } = useParams();
  const [search] = useSearchParams();
  const wanted = search.get("size");
  const size = wanted && /^\d+$/.test(wanted) ? Number(wanted) : null;
  const bench = useQuery(benchQuery(Number(id), size));
  if (bench.isPending) return <Notice title="Spreading the attempts …" busy />;
  if (!bench.data)
    return (
      <Notice title="The picture cannot be shown" alert>
        {bench.error?.message}
        <p>
          <button type="button" className="plain" onClick={() => void bench.refetch()}>
            try again
          </button>{" "}
          <Link to={DESK}>to the desk</Link>
        </p>
      </Notice>
    );
  const found = bench.data.regions.find((one) => String(one.number) === region);
  if (!found)
    return (
      <Notice title="There is no such region in this picture">
        <p>
          <Link to={`/pictures/${id}`}>to the Bench</Link>
        </p>
      </Notice>
    );
  if (bench.data.attempts.length === 0)
    return (
      <Notice title="No attempts yet">
        No result has come in for this picture.{" "}
        <p>
          <Link to={DESK}>to the desk</Link>
        </p>
      </Notice>
    );
  return <SpreadFor key={found.id} bench={bench.data} region={found} askedSize={size} />;
}

/** Chance of being found better than an average attempt, with its interval. */
function StrengthBar({ strength }: { strength: Shapes["StrengthOf"] }) {
  const x = (value: number) => 1 + value * 68;
  const part = (value: number) => value.toLocaleString(undefined, { style: "percent" });
  return (
    <svg
      width="70"
      height="12"
      viewBox="0 0 70 12"
      role="img"
      aria-label={`in ${strength.pairs} blind pairs: better than an average attempt with a chance of ${part(strength.chance)}, ${part(strength.low)} to ${part(strength.high)}`}
    >
      <path d="M35 0v12" stroke="currentColor" strokeWidth="0.8" strokeDasharray="2 2" />
      <path
        d={`M${x(strength.low)} 6H${x(strength.high)}`}
        stroke="currentColor"
        strokeWidth="1.4"
      />
      <circle cx={x(strength.chance)} cy="6" r="3.4" fill="currentColor" />
    </svg>
  );
}

function Caption({
  place,
  attempt,
  row,
  state,
  picked,
}: {
  place: number;
  attempt: Attempt;
  row: Shapes["SpreadRow"];
  state: CellState;
  picked: boolean;
}) {
  const differs = row.differs.map(settingWords).join("; ");
  return (
    <div className="flex h-[5.75rem] flex-col px-1 small leading-[1.125rem]">
      <span className="flex items-center gap-1 whitespace-nowrap">
        <StateShape state={state} />
        <strong>
          {place}. attempt {attempt.number}
        </strong>
        {picked && (
          <span className="px-1" style={{ border: "1px solid currentColor" }}>
            picked
          </span>
        )}
        <span className="min-w-0 whitespace-normal">{attempt.method}</span>
        {row.strength && (
          <span className="ml-auto">
            <StrengthBar strength={row.strength} />
          </span>
        )}
      </span>
      <span className="line-clamp-2" title={differs}>
        {attempt.seconds !== null ? seconds(attempt.seconds) : "time unknown"}
        {attempt.cost ? `, ${attempt.cost}` : ""}
        {differs ? `; ${differs}` : ""}
      </span>
      <span className="line-clamp-2" title={row.group ?? ""}>
        {row.group
          ? `${row.group}, ${row.word}`
          : attempt.check_of?.state === "done"
            ? "nothing found"
            : "not judged yet"}
      </span>
    </div>
  );
}

function SpreadFor({
  bench,
  region,
  askedSize,
}: {
  bench: Bench;
  region: Region;
  askedSize: number | null;
}) {
  const [search, setSearch] = useSearchParams();
  const navigate = useNavigate();
  const spread = useQuery(
    spreadQuery(
      region.id,
      askedSize,
      bench.attempts.map((one) => `${one.id}:${one.check_of?.state ?? ""}`).join(),
    ),
  );
  const allAids = useQuery(aidsQuery).data ?? [];
  const pick = usePick(region.id, askedSize);
  const [aid, setAid] = useState<string | null>(null);
  const [blind, setBlind] = useState(false);
  const [seenActual, setSeenActual] = useState<Record<number, boolean>>({});
  const [stands, setStands] = useState<Record<number, boolean>>({});
  const zoom = useZoom();
  const [zoomed, setZoomed] = useState(1);
  const judged = bench.sizes.find((one) => one.id === bench.size);
  const delivery = deliveryResolution(judged, useScreen().perMillimetre, window.devicePixelRatio);
  const [link] = useState<{ view: View | null }>({ view: null });
  const grid = useRef<HTMLDivElement>(null);
  const [room, setRoom] = useState<[number, number]>([1280, 620]);
  useEffect(() => {
    const box = grid.current;
    if (!box) return undefined;
    const watch = new ResizeObserver(() => setRoom([box.clientWidth, box.clientHeight]));
    watch.observe(box);
    return () => watch.disconnect();
  }, [blind, spread.data]);

  const rows = useMemo(
    () =>
      (spread.data?.rows ?? []).flatMap((row) => {
        const attempt = bench.attempts.find((one) => one.id === row.attempt);
        const cell = attempt && cellAt(bench, region.id, attempt.id);
        return attempt && cell ? [{ row, attempt, cell }] : [];
      }),
    [spread.data, bench, region.id],
  );
  const wanted = search.get("attempt");
  const at = Math.max(
    0,
    rows.findIndex((one) => String(one.attempt.number) === wanted),
  );
  const chosen = rows[at];
  const columns = columnsFor(
    rows.length + 1,
    room[0],
    room[1] - 60 * Math.ceil((rows.length + 1) / 4),
  );
  const choose = useCallback(
    (place: number) => {
      const to = rows[place];
      if (!to) return;
      const next = new URLSearchParams(window.location.search);
      next.set("attempt", String(to.attempt.number));
      setSearch(next, { replace: true });
    },
    [rows, setSearch],
  );
  const shown = chosen ? { cell: chosen.cell, attempt: chosen.attempt } : null;
  const first = bench.cells[0],
    firstAttempt = bench.attempts[0];
  if (!first || !firstAttempt) throw new Error("a spread without cells");
  const ruler = useRuling({
    bench,
    askedSize,
    region,
    cell: shown?.cell ?? first,
    attempt: shown?.attempt ?? firstAttempt,
    ready: shown !== null && !blind && Boolean(stands[shown.attempt.image.id]),
    seenActual: Boolean(shown && seenActual[shown.cell.id]),
    onRuled: () => undefined,
    onTakenBack: () => undefined,
  });
  const mayRule = bench.role === "supervisor";

  useEffect(() => {
    const walk = (event: KeyboardEvent) => {
      if (
        !event.key.startsWith("Arrow") ||
        event.ctrlKey ||
        event.altKey ||
        event.metaKey ||
        event.shiftKey ||
        blind ||
        document.querySelector("[role=dialog]")
      )
        return;
      if (
        event.target instanceof HTMLElement &&
        /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName)
      )
        return;
      event.preventDefault();
      // The original stands first and is not walked to; it is the one that all are compared with.
      choose(Math.max(0, stepIn(rows.length + 1, columns, at + 1, event.key) - 1));
    };
    window.addEventListener("keydown", walk);
    return () => window.removeEventListener("keydown", walk);
  }, [rows.length, columns, at, blind, choose]);

  const onward = (by: number) => {
    const place = bench.regions.findIndex((one) => one.id === region.id);
    const to = bench.regions[(place + by + bench.regions.length) % bench.regions.length];
    if (to)
      void navigate(
        `/pictures/${bench.id}/regions/${to.number}/spread${askedSize === null ? "" : `?size=${askedSize}`}`,
      );
  };
  const back = () =>
    void navigate(
      `/pictures/${bench.id}?region=${region.number}${shown ? `&attempt=${shown.attempt.number}` : ""}${askedSize === null ? "" : `&size=${askedSize}`}`,
    );
  const picked = () => {
    if (shown && mayRule && !blind)
      pick.mutate(shown.attempt.id, { onError: (error) => ruler.setTrouble(error.message) });
  };
  const nextAid = () =>
    setAid(
      (old) =>
        allAids[(allAids.findIndex((one) => one.name === old) + 1) % Math.max(1, allAids.length)]
          ?.name ?? null,
    );
  const lastAid = useRef<string | null>(null);
  const toggleAid = () => {
    if (aid) lastAid.current = aid;
    setAid(aid ? null : (lastAid.current ?? allAids[0]?.name ?? null));
  };
  const still = (act: () => void) => () => {
    if (!blind) act();
  };
  useKeys({
    ...zoom.keys,
    spread: back,
    aid: toggleAid,
    nextAid,
    next: still(() => onward(1)),
    blind: () => {
      if (mayRule) setBlind(!blind);
    },
    pick: picked,
    desk: () => void navigate(DESK),
    passes: () => ruler.rule("passes"),
    passesAtSize: () => ruler.rule("passes at size"),
    rework: () => ruler.rule("rework"),
    rebuild: () => ruler.rule("rebuild"),
    takeBack: still(ruler.takeBack),
  });
  const onSettled = useCallback(
    (image: number, cell: number | null, settled: boolean, scale: number, plain: boolean) => {
      setStands((old) => (old[image] === settled ? old : { ...old, [image]: settled }));
      setZoomed(scale);
      if (cell !== null && settled && plain && scale >= 0.999)
        setSeenActual((old) => (old[cell] ? old : { ...old, [cell]: true }));
    },
    [],
  );
  const lookedAt = `${region.id}|${zoom.zoom}|${zoom.looks}|${columns}|${zoom.zoom === "delivery" ? delivery : ""}`;
  const on = allAids.find((one) => one.name === aid) ?? null;

  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[44px_auto_1fr_auto]">
      <header
        className="flex items-center gap-4 border-b px-3"
        style={{ borderColor: "var(--line)" }}
      >
        <button type="button" className="plain" onClick={back}>
          bench <Key action="spread" />
        </button>
        <h1 className="truncate text-[1rem] font-normal">
          {bench.job}{" "}
          <strong>
            {String(bench.number).padStart(2, "0")} {bench.name}, {region.name}
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
        {bench.regions.length > 1 && (
          <button type="button" className="plain" disabled={blind} onClick={() => onward(1)}>
            next region <Key action="next" />
          </button>
        )}
        <span
          role="status"
          className="px-1"
          style={
            region.state === "undecided"
              ? { background: "var(--await)", color: "#000", border: "1px solid #000" }
              : undefined
          }
        >
          {region.state}
        </span>
      </header>
      <section aria-label="How it is seen">
        <div
          className="flex h-[34px] items-center gap-2 border-b px-3"
          style={{ borderColor: "var(--line)" }}
        >
          <label className="flex items-center gap-1">
            see
            <select
              className="field"
              aria-label="aid"
              value={aid ?? ""}
              onChange={(event) => setAid(event.target.value || null)}
            >
              <option value="">as it is</option>
              {allAids.map((one) => (
                <option key={one.name} value={one.name}>
                  {one.words}
                </option>
              ))}
            </select>
            <Key action="aid" />
            <Key action="nextAid" />
          </label>
          {mayRule && (
            <button
              type="button"
              className="plain whitespace-nowrap"
              aria-pressed={blind}
              disabled={rows.length < 2}
              onClick={() => setBlind(!blind)}
            >
              blind pairs <Key action="blind" />
            </button>
          )}
          {mayRule && !blind && shown && (
            <button
              type="button"
              className="plain whitespace-nowrap"
              disabled={pick.isPending}
              onClick={picked}
            >
              pick attempt {shown.attempt.number} <Key action="pick" />
            </button>
          )}
          <ZoomWords zoom={zoom} zoomed={zoomed} size={judged} />
          <ZoomButtons zoom={zoom} />
        </div>
        <p className="m-0 flex h-[22px] items-center gap-4 px-3 small">
          {blind && !on ? (
            <span>names, order and settings are hidden; sides are drawn by lot</span>
          ) : on ? (
            <span>
              <strong>{on.words}</strong>: {on.says}
            </span>
          ) : (
            <span>
              from the one that holds best to the one that holds worst, as the machine has it
            </span>
          )}
          {spread.data && !blind && spread.data.pairs > 0 && (
            <span className="ml-auto whitespace-nowrap">
              {spread.data.pairs} blind {spread.data.pairs === 1 ? "pair" : "pairs"}
              {spread.data.agreement !== null ? `; ${agreementWords(spread.data.agreement)}` : ""}
            </span>
          )}
        </p>
      </section>
      {blind ? (
        <BlindPairs
          region={region}
          zoom={zoom.zoom}
          looks={zoom.looks}
          delivery={delivery}
          aid={on}
          onZoomed={setZoomed}
        />
      ) : spread.isError ? (
        <Notice title="The order cannot be had" alert>
          {spread.error.message}{" "}
          <p>
            <button type="button" className="plain" onClick={() => void spread.refetch()}>
              try again
            </button>
          </p>
        </Notice>
      ) : !spread.data ? (
        <Notice title="Putting them in order …" busy />
      ) : (
        <main
          ref={grid}
          className="grid min-h-0 gap-[3px] p-[3px]"
          aria-label="The attempts side by side"
          style={{
            gridTemplateColumns: `repeat(${columns}, ${wholePixels(columns)})`,
            gridAutoRows: wholePixels(Math.ceil((rows.length + 1) / columns)),
            placeContent: "start",
          }}
        >
          <figure
            className="m-0 flex min-h-0 flex-col border"
            style={{ borderColor: "var(--line)" }}
          >
            <div className="min-h-0 flex-1">
              <AidedStage
                image={bench.original}
                cell={null}
                aid={on}
                zoom={zoom.zoom}
                box={region.bbox}
                at={lookedAt}
                delivery={delivery}
                link={link}
                follows={false}
                onSettled={onSettled}
                label="the original"
              />
            </div>
            <figcaption className="h-[5.75rem] px-1 small">
              <strong>original</strong>
            </figcaption>
          </figure>
          {rows.map(({ row, attempt, cell }, place) => (
            <figure
              key={attempt.id}
              className="m-0 flex min-h-0 flex-col border"
              data-attempt={attempt.number}
              aria-current={place === at}
              style={{
                borderColor: place === at ? "var(--ink)" : "var(--line)",
                outline: place === at ? "2px solid var(--ink)" : undefined,
                background: place === at ? "var(--lift)" : undefined,
              }}
            >
              <div className="min-h-0 flex-1">
                <AidedStage
                  image={attempt.image}
                  cell={cell.id}
                  aid={on}
                  zoom={zoom.zoom}
                  box={region.bbox}
                  at={lookedAt}
                  delivery={delivery}
                  link={link}
                  follows
                  onSettled={onSettled}
                  label={`attempt ${attempt.number}, ${place + 1} of ${rows.length}`}
                />
              </div>
              <figcaption>
                <button
                  type="button"
                  className="block w-full border-0 bg-transparent p-0 text-left"
                  onClick={() => choose(place)}
                >
                  <Caption
                    place={place + 1}
                    attempt={attempt}
                    row={row}
                    state={cell.state as CellState}
                    picked={spread.data?.picked?.attempt === attempt.id}
                  />
                </button>
              </figcaption>
            </figure>
          ))}
        </main>
      )}
      <footer>
        {shown && !blind && (
          <RulingBar
            bench={bench}
            cell={shown.cell}
            mayRule={mayRule}
            ready={Boolean(stands[shown.attempt.image.id])}
            busy={ruler.busy}
            trouble={ruler.trouble}
            asking={ruler.asking}
            last={ruler.last}
            onRule={ruler.rule}
            onTakeBack={ruler.takeBack}
            onNext={() => onward(1)}
          />
        )}
      </footer>
    </div>
  );
}
