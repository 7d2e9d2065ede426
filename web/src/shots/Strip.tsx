import { useRef, type KeyboardEvent, type PointerEvent } from "react";
import type { Shot, ShotAttempt } from "../api/shots";
import { KindPicture } from "../ui/marks";
import { called } from "./clock";
import { areaOf, rowsOf, runsOf, type Row } from "./strip";
import type { Player } from "./usePlayer";

type Props = {
  shot: Shot;
  attempt: ShotAttempt;
  player: Player;
  /** People look first: what the machine found is shown once the shot has been seen. */
  open: boolean;
  chosen: string | null;
  onChoose: (row: Row) => void;
};

const NAMES = "9.5rem";

/** The strip of time: what stands where in the shot, a row for everything that was found. */
export function Strip({ shot, attempt, player, open, chosen, onChoose }: Props) {
  const rows = open ? rowsOf(attempt, shot.regions) : [];
  return (
    <div
      className="relative grid max-h-[34vh] overflow-y-auto overflow-x-hidden px-3 pb-2"
      style={{ gridTemplateColumns: `${NAMES} minmax(0, 1fr)` }}
      aria-label="The strip of time"
      role="group"
    >
      <span className="small self-center">frames</span>
      <Ruler shot={shot} attempt={attempt} player={player} open={open} />
      {shot.regions.map((region) => (
        <Rulings key={region.id} shot={shot} attempt={attempt} region={region.id} player={player} />
      ))}
      {rows.map((row) => (
        <Course
          key={row.key}
          row={row}
          shot={shot}
          player={player}
          chosen={row.key === chosen}
          onChoose={() => onChoose(row)}
        />
      ))}
    </div>
  );
}

const partOf = (frame: number, frames: number) => `${(frame / frames) * 100}%`;

function Playhead({ player, frames }: { player: Player; frames: number }) {
  return (
    <span
      aria-hidden="true"
      className="pointer-events-none absolute inset-y-0"
      style={{
        left: partOf(player.frame, frames),
        width: `max(2px, ${partOf(1, frames)})`,
        background: "rgb(0 0 0 / 0.25)",
        borderLeft: "1px solid var(--ink)",
      }}
    />
  );
}

/** Frame numbers, key frames, what is covered; the range; where it plays. */
function Ruler({
  shot,
  attempt,
  player,
  open,
}: {
  shot: Shot;
  attempt: ShotAttempt;
  player: Player;
  open: boolean;
}) {
  const frames = shot.original.frames;
  const from = useRef<number | null>(null);
  const frameOf = (event: PointerEvent) => {
    const around = event.currentTarget.getBoundingClientRect();
    const at = Math.floor(((event.clientX - around.left) / around.width) * frames);
    return Math.min(frames - 1, Math.max(0, at));
  };
  const down = (event: PointerEvent) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    const frame = frameOf(event);
    from.current = event.shiftKey ? frame : null;
    if (event.shiftKey) player.setRange({ first: frame, last: frame });
    player.goTo(frame);
  };
  const move = (event: PointerEvent) => {
    if (event.buttons === 0) return;
    const frame = frameOf(event);
    if (from.current !== null)
      player.setRange({
        first: Math.min(from.current, frame),
        last: Math.max(from.current, frame),
      });
    player.goTo(frame);
  };
  const keys = (event: KeyboardEvent) => {
    const step = { Home: -frames, End: frames, PageDown: 10, PageUp: -10 }[event.key];
    if (step === undefined) return;
    event.preventDefault();
    player.step(step);
  };
  const every = frames > 200 ? 50 : frames > 60 ? 12 : 6;
  const covered = open
    ? runsOf(
        [...new Set(attempt.check?.regions.flatMap((one) => one.covered) ?? [])].sort(
          (a, b) => a - b,
        ),
      )
    : [];
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label="frame"
      aria-valuemin={shot.original.first}
      aria-valuemax={shot.original.first + frames - 1}
      aria-valuenow={shot.original.first + player.frame}
      className="relative h-[30px] cursor-pointer touch-none border-b"
      style={{ borderColor: "var(--line)" }}
      onPointerDown={down}
      onPointerMove={move}
      onKeyDown={keys}
      title="drag to move in time, with Shift to set the range"
    >
      {player.ranged && (
        <span
          aria-hidden="true"
          className="absolute bottom-0 h-[6px]"
          style={{
            left: partOf(player.range.first, frames),
            width: partOf(player.range.last - player.range.first + 1, frames),
            background: "var(--ink)",
          }}
        />
      )}
      {covered.map((run) => (
        <span
          key={run.first}
          aria-hidden="true"
          title="something passes in front"
          className="absolute top-[15px] h-[6px] border"
          style={{
            left: partOf(run.first, frames),
            width: partOf(run.last - run.first + 1, frames),
            borderColor: "var(--ink)",
          }}
        />
      ))}
      {Array.from({ length: Math.ceil(frames / every) }, (_, at) => at * every).map((frame) => (
        <span
          key={frame}
          aria-hidden="true"
          className="small absolute top-0 border-l pl-[2px] leading-none"
          style={{ left: partOf(frame, frames), borderColor: "var(--line)", fontSize: "0.6875rem" }}
        >
          {called(frame, shot.original.first)}
        </span>
      ))}
      {open &&
        attempt.check?.key_frames.map((one) => (
          <span
            key={one.frame}
            aria-hidden="true"
            title={`key frame: ${one.why}`}
            className="absolute bottom-[8px] h-[7px] w-[7px] -translate-x-1/2 rotate-45 border"
            style={{ left: partOf(one.frame + 0.5, frames), borderColor: "var(--ink)" }}
          />
        ))}
      <Playhead player={player} frames={frames} />
    </div>
  );
}

/** What was ruled of a region, over the frames: a full bar passes, a hatched one goes back, an empty one awaits. */
function Rulings({
  shot,
  attempt,
  region,
  player,
}: {
  shot: Shot;
  attempt: ShotAttempt;
  region: number;
  player: Player;
}) {
  const frames = shot.original.frames;
  const cell = attempt.cells.find((one) => one.region === region);
  const row = shot.regions.find((one) => one.id === region);
  return (
    <>
      <span className="small truncate">
        {row?.name || `region ${row?.number}`}: {cell?.state}
      </span>
      <div className="relative my-[3px] h-[12px]" style={{ background: "var(--sink)" }}>
        {cell?.stands.map((one) => (
          <span
            key={one.first}
            aria-hidden="true"
            className="absolute inset-y-0 border"
            style={{
              left: partOf(one.first, frames),
              width: partOf(one.last - one.first + 1, frames),
              borderColor: "var(--ink)",
              background:
                one.ruling === "passes"
                  ? "var(--lift)"
                  : "repeating-linear-gradient(45deg, var(--ink) 0 2px, transparent 2px 6px)",
            }}
          />
        ))}
        <Playhead player={player} frames={frames} />
      </div>
    </>
  );
}

/** How bad a flaw is, frame by frame. */
function Course({
  row,
  shot,
  player,
  chosen,
  onChoose,
}: {
  row: Row;
  shot: Shot;
  player: Player;
  chosen: boolean;
  onChoose: () => void;
}) {
  const frames = shot.original.frames;
  const { finding } = row;
  const first = shot.original.first;
  return (
    <>
      <button
        type="button"
        className="quiet flex items-center gap-1 overflow-hidden text-left small"
        aria-pressed={chosen}
        onClick={onChoose}
      >
        <KindPicture kind={row.kind} />
        <span className="truncate">
          {shot.regions.length > 1 ? `${row.region}: ` : ""}
          {row.kind}, {finding.word}
        </span>
      </button>
      <div
        className="relative my-[2px]"
        role="img"
        aria-label={`${row.kind}: frames ${called(finding.first, first)} to ${called(finding.last, first)}, worst in ${called(finding.worst, first)}`}
        style={{ background: "var(--sink)" }}
      >
        <svg
          className="absolute inset-0 h-full w-full"
          viewBox={`0 0 ${frames} 1`}
          preserveAspectRatio="none"
          aria-hidden="true"
        >
          <path d={areaOf(finding.course)} fill={chosen ? "var(--ink)" : "#3a3a3a"} />
        </svg>
        <span
          aria-hidden="true"
          className="absolute bottom-0 border-b-2"
          style={{
            left: partOf(finding.first, frames),
            width: partOf(finding.last - finding.first + 1, frames),
            borderColor: "var(--ink)",
          }}
        />
        <Playhead player={player} frames={frames} />
      </div>
    </>
  );
}
