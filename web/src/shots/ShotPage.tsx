import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { shotQuery, useShot, type Shot, type ShotRuling, type ShotSlip } from "../api/shots";
import { useKeys } from "../keys";
import { DESK } from "../ui/places";
import { Notice } from "../ui/Notice";
import { Trouble } from "../ui/Trouble";
import { between, called } from "./clock";
import { IDENTITY, boxOf, middleOf, near, type Affine } from "./ground";
import { LookBar } from "./LookBar";
import type { Rings } from "./paint";
import { homeOf, ShotFound, ShotHead, ShotLedger, ShotRule } from "./ShotPanel";
import { ShotSlips } from "./ShotSlips";
import { ShotStage, type Drawing } from "./ShotStage";
import { SliceView } from "./SliceView";
import { Strip } from "./Strip";
import { rowsOf, type Row } from "./strip";
import { Transport } from "./Transport";
import { usePlayer, type Player } from "./usePlayer";
import { sideWords, useSides, type Looked } from "./useSides";
import { useShotState, type ShotState } from "./useShotState";
import { useSingle } from "./useSingle";
import { useSeenThrough } from "./useSeenThrough";
import type { Zoom } from "./view";

/** The line and the row that is sliced move so far with a key. */
const LINE = 0.04;
const MOST_DOUBLED = 6;

/** The Bench of a picture that moves. */
export function ShotPage() {
  const id = Number(useParams().id);
  const found = useQuery(shotQuery(id));
  if (found.isPending) return <Notice title="Looking at the shot …" busy />;
  if (!found.data)
    return (
      <Notice title="The shot cannot be shown" alert>
        {found.error?.message}
        <p>
          <button type="button" className="plain" onClick={() => void found.refetch()}>
            try again
          </button>{" "}
          <Link to={DESK}>to the desk</Link>
        </p>
      </Notice>
    );
  return <Page key={id} shot={found.data} />;
}

/** Where a region is in each frame, and what holds the ground about it still. */
function placesOf(region: Shot["regions"][number] | null, grounded: boolean) {
  const carried = region?.carried ?? null;
  const ringsIn = (at: number): Rings =>
    carried?.outlines[at] ?? region?.drawn.find((one) => one.frame === at)?.outlines ?? [];
  const still = carried ? middleOf(carried.outlines[carried.reference] ?? []) : null;
  const heldIn = (at: number): Affine => {
    const matrix = carried?.motion[at];
    if (!grounded || !matrix || !still) return IDENTITY;
    const there = middleOf(carried.outlines[at] ?? []) ?? still;
    return near(matrix, there[0], there[1]);
  };
  return {
    carried,
    ringsIn,
    still,
    heldIn,
    boxIn: (at: number) => boxOf(ringsIn(grounded && carried ? carried.reference : at)),
  };
}

const nextOf = <T,>(list: readonly T[], is: (one: T) => boolean): T | undefined =>
  list[(list.findIndex(is) + 1) % Math.max(1, list.length)];

function Page({ shot }: { shot: Shot }) {
  const navigate = useNavigate();
  const acts = useShot(shot.id);
  const { frames, rate, width, height } = shot.original;
  const state = useShotState(shot);
  const { attempt, region, judged, drawing, setDrawing } = state;
  const looked = useSides(shot, state.sides);
  const player = usePlayer(frames, rate, looked.ready);
  const { frame, range } = player;
  useEffect(() => looked.ask(frame));
  const shownAlone = state.holding ? state.sides.a : state.sides.b;
  const seen = useSeenThrough(judged, frame, frames, shownAlone);
  const rows = attempt ? rowsOf(attempt, shot.regions) : [];
  const places = placesOf(region, state.grounded);
  const sliced = state.row ?? places.still?.[1] ?? height / 2;
  const cell = attempt?.cells.find((one) => one.region === region?.id);

  const choose = (one: Row) => {
    state.setChosen(one.key);
    const place = shot.regions.find((two) => two.number === one.region);
    if (place) state.setRegion(place.id);
    player.goTo(one.finding.worst);
  };
  /** What a slip asks for: its attempt, region and frames. */
  const show = (slip: ShotSlip, part: number) => {
    const asked = slip.parts[part];
    const frames = asked?.ranges[0];
    const sent = shot.attempts.find((one) => one.number === slip.attempt);
    if (sent) state.setAttempt(sent.id);
    if (!asked || !frames) return;
    state.setRegion(asked.region);
    state.setChosen(null);
    player.setRange(between(frames.first, frames.last));
    player.goTo(frames.first);
  };
  useArrival(shot, (slip) => show(slip, 0));
  const walk = (by: number) => {
    const own = rows.filter((one) => one.region === region?.number);
    if (!seen.open || own.length === 0) return;
    const at = own.findIndex((one) => one.key === state.chosen);
    const next = own[(at + by + own.length + (at < 0 && by < 0 ? 1 : 0)) % own.length];
    if (next) choose(next);
  };
  const rule = (ruling: ShotRuling["ruling"]) => {
    if (!shot.rules || !attempt || !region || !cell || acts.rule.isPending) return;
    acts.rule.mutate(
      {
        attempt: attempt.id,
        region: region.id,
        first: range.first,
        last: range.last,
        ruling,
        words: state.words,
        revision: cell.revision,
      },
      { onSuccess: () => state.setWords("") },
    );
  };
  const nudge = (by: number) => {
    if (state.mode === "difference")
      state.setDoubled((now) => Math.min(MOST_DOUBLED, Math.max(0, now + by)));
    else if (state.mode === "slice")
      state.setRow(Math.min(height - 1, Math.max(0, sliced + by * Math.max(1, height / 100))));
    else state.setLine((now) => Math.min(1, Math.max(0, now + by * LINE)));
  };
  const nextAttempt = () =>
    state.setAttempt(nextOf(shot.attempts, (one) => one.id === judged)?.id ?? null);
  const nextOther = () => {
    const choices = [null, ...shot.attempts.map((one) => one.id).filter((one) => one !== judged)];
    state.setOther(nextOf(choices, (one) => one === state.compared) ?? null);
  };
  const keyFrame = () => {
    const all = [...new Set(attempt?.check?.key_frames.map((one) => one.frame) ?? [])].sort(
      (one, two) => one - two,
    );
    const next = all.find((one) => one > frame) ?? all[0];
    if (seen.open && next !== undefined) player.goTo(next);
  };
  const chosenFinding = rows.find((one) => one.key === state.chosen)?.finding ?? null;
  const keepDrawing = () => {
    if (!drawing || drawing.points.length < 3 || acts.draw.isPending) return;
    acts.draw.mutate(
      { region: drawing.region, frame, outlines: [drawing.points] },
      { onSuccess: () => setDrawing(null) },
    );
  };

  useKeys(
    {
      play: () => player.play(!player.playing),
      speed: player.nextSpeed,
      rangeFrom: () => player.setRange(between(frame, Math.max(frame, range.last))),
      rangeTo: () => player.setRange(between(Math.min(frame, range.first), frame)),
      rangeWhole: () => player.setRange(null),
      rangeFinding: () => {
        if (chosenFinding && seen.open)
          player.setRange(between(chosenFinding.first, chosenFinding.last));
      },
      keyFrame,
      ground: () => state.setGrounded((now) => !now),
      nextRegion: () =>
        state.setRegion(nextOf(shot.regions, (one) => one.id === region?.id)?.id ?? null),
      nextAttempt,
      nextA: nextOther,
      turnRound: state.turn,
      swap: state.setHolding,
      bare: state.setBare,
      wipe: () => state.toggle("wipe"),
      difference: () => state.toggle("difference"),
      slice: () => state.toggle("slice"),
      less: () => nudge(-1),
      more: () => nudge(1),
      zoomActual: () => state.setZoom(1),
      zoomDouble: () => state.setZoom(2),
      zoomRegion: () => state.setZoom("region"),
      zoomWhole: () => state.setZoom("whole"),
      nextFinding: () => walk(1),
      previousFinding: () => walk(-1),
      passes: () => rule("passes"),
      rework: () => rule("rework"),
      takeBack: () => rule("taken back"),
      outlines: () => {
        if (shot.rules) state.startDrawing(region?.id ?? null);
      },
      desk: () => void navigate(homeOf(shot)),
    },
    drawing === null,
  );
  useArrows({
    step: player.step,
    drawing: drawing !== null,
    onMove: (x, y) =>
      setDrawing(
        (now) =>
          now && {
            ...now,
            cross: [
              Math.min(width, Math.max(0, now.cross[0] + x)),
              Math.min(height, Math.max(0, now.cross[1] + y)),
            ],
          },
      ),
    onAct: () => setDrawing((now) => now && { ...now, points: [...now.points, now.cross] }),
    onKeep: keepDrawing,
    onDrop: () => setDrawing(null),
  });

  return (
    <div className="bench">
      <aside
        className="row-span-2 grid min-h-0 grid-rows-[auto_1fr] border-r"
        style={{ borderColor: "var(--line)" }}
      >
        <ShotHead shot={shot} />
        <div className="scrolls min-h-0 px-3 py-2">
          {attempt && (
            <ShotLedger
              shot={shot}
              attempt={attempt.id}
              region={region?.id ?? null}
              open={seen.open}
              onChoose={(to, place) => {
                state.setAttempt(to);
                state.setRegion(place);
                state.setChosen(null);
              }}
            />
          )}
          <Outlining shot={shot} onDraw={() => state.startDrawing(null)} />
          {attempt ? (
            <ShotFound
              shot={shot}
              attempt={attempt}
              region={region}
              open={seen.open}
              chosen={state.chosen}
              onOpen={seen.show}
              onChoose={choose}
              onFrame={player.goTo}
              onCheck={() => acts.check.mutate(attempt.id)}
            />
          ) : (
            <p className="m-0">
              No attempt yet
              {shot.rules && (
                <>
                  : <Link to={homeOf(shot)}>bring one in</Link>
                </>
              )}
              .
            </p>
          )}
          {attempt && cell && (
            <ShotRule
              shot={shot}
              cell={cell}
              range={range}
              words={state.words}
              busy={acts.rule.isPending}
              error={acts.rule.error}
              onWords={state.setWords}
              onRule={rule}
            />
          )}
          {attempt && region && (
            <ShotSlips
              shot={shot}
              attempt={attempt}
              region={region}
              range={range}
              onFrame={player.goTo}
              onAttempt={state.setAttempt}
              onShow={show}
            />
          )}
          <Trouble error={acts.check.error} />
        </div>
      </aside>
      <main
        className="row-span-2 grid min-h-0 min-w-0 grid-rows-[auto_1fr]"
        aria-label="The shot"
        data-mode={state.mode}
        data-frame={frame}
      >
        <LookBar shot={shot} state={state} carried={places.carried !== null} onOther={nextOther} />
        <div className="relative min-h-0">
          <Picture
            shot={shot}
            state={state}
            looked={looked}
            player={player}
            places={places}
            sliced={sliced}
          />
          {drawing && (
            <DrawingBar
              drawing={drawing}
              frame={called(frame, shot.original.first)}
              region={shot.regions.find((one) => one.id === drawing.region)?.number ?? null}
              busy={acts.draw.isPending}
              error={acts.draw.error}
              onNew={() => setDrawing({ ...drawing, region: null })}
              onLast={() => setDrawing({ ...drawing, points: drawing.points.slice(0, -1) })}
              onKeep={keepDrawing}
              onDrop={() => setDrawing(null)}
            />
          )}
        </div>
      </main>
      <footer className="col-span-2 min-w-0">
        <Transport shot={shot} player={player} />
        {attempt && (
          <Strip
            shot={shot}
            attempt={attempt}
            player={player}
            open={seen.open}
            chosen={state.chosen}
            onChoose={choose}
          />
        )}
      </footer>
    </div>
  );
}

/** The picture of this moment, or why there is none. */
function Picture({
  shot,
  state,
  looked,
  player,
  places,
  sliced,
}: {
  shot: Shot;
  state: ShotState;
  looked: Looked;
  player: Player;
  places: ReturnType<typeof placesOf>;
  sliced: number;
}) {
  const { frame } = player;
  const { attempt, sides, size, zoom, drawing, setDrawing } = state;
  const alone = state.holding ? "a" : "b";
  const waiting = [shot.original, attempt?.footage].find((one) => one && !one.ready);
  const box = places.boxIn(frame);
  const number = called(frame, shot.original.first);
  const [scale, setScale] = useState(0);
  const held = player.playing ? null : frame;
  const [a, b] = [useFullSize(looked, "a", held, scale), useFullSize(looked, "b", held, scale)];
  if (waiting) return <Making footage={waiting} />;
  return (
    <>
      {state.mode === "slice" ? (
        <SliceView
          looked={looked}
          sides={{ a: sideWords(shot, sides.a), b: sideWords(shot, sides.b) }}
          size={size}
          range={player.range}
          frame={frame}
          row={sliced}
          columns={columnsOf(zoom, box, size.width)}
          heldIn={places.heldIn}
          of={`${state.grounded} ${state.region?.id} ${sides.a} ${sides.b}`}
          onGoTo={player.goTo}
        />
      ) : (
        <ShotStage
          frame={frame}
          size={size}
          mode={state.mode}
          alone={alone}
          sides={{ a: a.side ?? looked.sideAt("a", frame), b: b.side ?? looked.sideAt("b", frame) }}
          full={(state.holding ? a : b).side !== null}
          onScale={setScale}
          line={state.line}
          doubled={state.doubled}
          zoom={zoom}
          box={zoom === "whole" ? null : box}
          held={places.heldIn(frame)}
          outlines={
            state.bare || player.playing ? [] : [{ rings: places.ringsIn(frame), strong: true }]
          }
          drawing={drawing}
          moving={player.playing}
          onLine={state.setLine}
          onPoint={(at) =>
            setDrawing((now) => now && { ...now, points: [...now.points, at], cross: at })
          }
          words={`frame ${number} of ${sideWords(shot, sides[alone])}`}
        />
      )}
      {looked.missing(alone, frame) && (
        <p className="absolute inset-x-0 top-1/2 m-0 text-center" role="status">
          {sideWords(shot, sides[alone])} shows no frame {number}.
        </p>
      )}
      {state.mode !== "slice" && (a.coming || b.coming) && (
        <p className="absolute bottom-1 left-2 m-0 small" role="status">
          frame {number} is being drawn at full size …
        </p>
      )}
      {looked.error && (
        <p className="absolute inset-x-0 top-2 m-0 text-center" role="alert">
          <strong>{looked.error.message}</strong>
        </p>
      )}
    </>
  );
}

/** A side at full size while it is held still and looked at larger than it is played. */
function useFullSize(looked: Looked, side: "a" | "b", frame: number | null, scale: number) {
  const number = frame === null ? null : looked.numberOf(side, frame);
  const { single, coming } = useSingle(looked.footageOf(side), number, scale);
  return { side: single && { bitmap: single, words: looked.wordsOf(side) }, coming };
}

function columnsOf(
  zoom: Zoom,
  box: readonly [number, number, number, number] | null,
  width: number,
): readonly [number, number] {
  if (zoom === "whole" || !box) return [0, width];
  const middle = box[0] + box[2] / 2;
  const half = Math.max(60, box[2]);
  return [Math.max(0, Math.round(middle - half)), Math.min(width, Math.round(middle + half))];
}

function Making({ footage }: { footage: Shot["original"] }) {
  return footage.reason ? (
    <Notice inside title={`${footage.name} cannot be played`} alert>
      {footage.reason}
    </Notice>
  ) : (
    <Notice inside title={`The frames of ${footage.name} are being drawn`} busy>
      <progress max={1} value={footage.progress} className="h-[6px] w-[220px]" />
    </Notice>
  );
}

/** How the regions of a shot come to be, while they do. */
function Outlining({ shot, onDraw }: { shot: Shot; onDraw: () => void }) {
  const { outlining } = shot;
  if (outlining?.state === "failed")
    return (
      <p role="alert" className="m-0">
        <strong>The regions could not be found: {outlining.error}</strong>
        {shot.rules && (
          <>
            {" "}
            <button type="button" className="plain" onClick={onDraw}>
              draw one
            </button>
          </>
        )}
      </p>
    );
  if (outlining)
    return (
      <p role="status" className="m-0">
        {outlining.words || "waits for its regions"} …
      </p>
    );
  if (shot.regions.length === 0)
    return (
      <p className="m-0">Nothing was changed that could be proposed; draw what was removed.</p>
    );
  return null;
}

function DrawingBar({
  drawing,
  frame,
  region,
  busy,
  error,
  onNew,
  onLast,
  onKeep,
  onDrop,
}: {
  drawing: Drawing;
  frame: string;
  region: number | null;
  busy: boolean;
  error: Error | null;
  onNew: () => void;
  onLast: () => void;
  onKeep: () => void;
  onDrop: () => void;
}) {
  return (
    <div
      className="absolute inset-x-0 bottom-0 flex flex-wrap items-center gap-2 px-3 py-1"
      style={{ background: "var(--ground)" }}
      role="group"
      aria-label="Draw"
    >
      <span>
        {region === null ? "A new region" : `Region ${region}`} in frame {frame}: points around it (
        {drawing.points.length}); it is carried through the other frames.
      </span>
      <button
        type="button"
        className="plain"
        aria-disabled={busy || drawing.points.length < 3}
        onClick={onKeep}
      >
        keep <span className="key">Enter</span>
      </button>
      <button
        type="button"
        className="quiet"
        disabled={drawing.points.length === 0}
        onClick={onLast}
      >
        without the last point
      </button>
      {region !== null && (
        <button type="button" className="quiet" onClick={onNew}>
          as a new region
        </button>
      )}
      <button type="button" className="quiet" onClick={onDrop}>
        leave it <span className="key">Esc</span>
      </button>
      <Trouble error={error} />
    </div>
  );
}

/** Whoever comes from a list of slips sees what theirs asks for. */
function useArrival(shot: Shot, show: (slip: ShotSlip) => void) {
  const [asked] = useSearchParams();
  const shown = useRef<number | null>(null);
  const slip = shot.slips.find((one) => one.id === Number(asked.get("slip")));
  useEffect(() => {
    if (!slip || shown.current === slip.id) return;
    shown.current = slip.id;
    show(slip);
  });
}

/** Arrow keys: a frame back or on, with Shift ten; while something is drawn they move the cross, Space sets a point. */
function useArrows(acts: {
  step: (by: number) => void;
  drawing: boolean;
  onMove: (x: number, y: number) => void;
  onAct: () => void;
  onKeep: () => void;
  onDrop: () => void;
}) {
  useEffect(() => {
    const down = (event: KeyboardEvent) => {
      const target = event.target;
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (target instanceof HTMLElement && target.closest("input, textarea, select, [role=dialog]"))
        return;
      const step = event.shiftKey ? 1 : 6;
      const moves: Record<string, () => void> = acts.drawing
        ? {
            ArrowLeft: () => acts.onMove(-step, 0),
            ArrowRight: () => acts.onMove(step, 0),
            ArrowUp: () => acts.onMove(0, -step),
            ArrowDown: () => acts.onMove(0, step),
            " ": acts.onAct,
            Enter: acts.onKeep,
            Escape: acts.onDrop,
          }
        : {
            ArrowLeft: () => acts.step(event.shiftKey ? -10 : -1),
            ArrowRight: () => acts.step(event.shiftKey ? 10 : 1),
          };
      const act = moves[event.key];
      const pressed = target instanceof HTMLElement && target.closest("button, a");
      if (!act || (pressed && (event.key === " " || event.key === "Enter"))) return;
      event.preventDefault();
      act();
    };
    window.addEventListener("keydown", down);
    return () => window.removeEventListener("keydown", down);
  });
}
