import type { Shot } from "../api/shots";
import { Key } from "../ui/Key";
import { counted } from "../ui/words";
import { SPEEDS, called, rangeWords, speedWords } from "./clock";
import type { Player } from "./usePlayer";

/** What plays, how fast, and which range; by pointer what the keys do. */
export function Transport({ shot, player }: { shot: Shot; player: Player }) {
  const { frames, first, rate } = shot.original;
  const { range } = player;
  return (
    <div className="tools rule-top flex flex-wrap items-center gap-x-3 gap-y-1 px-3 py-1">
      <button
        type="button"
        className="plain w-[5.2rem]"
        onClick={() => player.play(!player.playing)}
      >
        {player.playing ? "stop" : "play"} <Key action="play" />
      </button>
      <span className="segments" role="group" aria-label="Step">
        <button
          type="button"
          className="min-h-[26px] min-w-[30px]"
          title="a frame back (left arrow key)"
          onClick={() => player.step(-1)}
        >
          −1
        </button>
        <button
          type="button"
          className="min-h-[26px] min-w-[30px]"
          title="a frame on (right arrow key)"
          onClick={() => player.step(1)}
        >
          +1
        </button>
      </span>
      <output aria-label="frame shown" className="w-[13.5rem]">
        frame {called(player.frame, first)} of {called(0, first)} to {called(frames - 1, first)},{" "}
        {(player.frame / rate).toFixed(2)} s
      </output>
      <span className="segments" role="group" aria-label="Speed">
        {SPEEDS.map((speed) => (
          <button
            key={speed}
            type="button"
            aria-pressed={player.speed === speed}
            onClick={() => player.setSpeed(speed)}
          >
            {speedWords(speed).replace(" speed", "")}
          </button>
        ))}
      </span>
      <Key action="speed" />
      <span className="flex items-center gap-1">
        <output aria-label="range">{rangeWords(range, frames, first)}</output>
        <button
          type="button"
          className="quiet"
          onClick={() =>
            player.setRange({ first: player.frame, last: Math.max(player.frame, range.last) })
          }
        >
          range from here <Key action="rangeFrom" />
        </button>
        <button
          type="button"
          className="quiet"
          onClick={() =>
            player.setRange({ first: Math.min(player.frame, range.first), last: player.frame })
          }
        >
          to here <Key action="rangeTo" />
        </button>
        <button
          type="button"
          className="quiet"
          disabled={!player.ranged}
          onClick={() => player.setRange(null)}
        >
          whole shot <Key action="rangeWhole" />
        </button>
      </span>
      <span role="status" className="small">
        {!player.playing &&
          player.left > 0 &&
          `${counted(player.left, "frame")} could not be shown in time`}
      </span>
    </div>
  );
}
