import type { Shot } from "../api/shots";
import type { Action } from "../keys";
import { Key } from "../ui/Key";
import type { Mode } from "./paint";
import type { ShotState } from "./useShotState";
import { sideWords } from "./useSides";
import type { Zoom } from "./view";

const MODES: { mode: Mode; action: Action; words: string }[] = [
  { mode: "wipe", action: "wipe", words: "wipe" },
  { mode: "difference", action: "difference", words: "difference" },
  { mode: "slice", action: "slice", words: "through time" },
];
const ZOOMS: { zoom: Zoom; action: Action; words: string }[] = [
  { zoom: 1, action: "zoomActual", words: "100 %" },
  { zoom: 2, action: "zoomDouble", words: "200 %" },
  { zoom: "region", action: "zoomRegion", words: "region" },
  { zoom: "whole", action: "zoomWhole", words: "whole" },
];

/** What is compared, and how; by pointer what the keys do. */
export function LookBar({
  shot,
  state,
  carried,
  onOther,
}: {
  shot: Shot;
  state: ShotState;
  /** Whether the ground is known, so that it can be held still. */
  carried: boolean;
  onOther: () => void;
}) {
  const { sides, mode, zoom, region } = state;
  return (
    <div className="tools flex flex-wrap items-center gap-x-3 gap-y-1 px-3 py-1">
      <span className="whitespace-nowrap">
        <button
          type="button"
          className="quiet"
          title="A becomes B and B becomes A"
          onClick={state.turn}
        >
          A {sideWords(shot, sides.a)}, B {sideWords(shot, sides.b)} <Key action="turnRound" />
        </button>
        <button type="button" className="quiet" onClick={onOther}>
          another <Key action="nextA" />
        </button>
      </span>
      <div className="segments" role="group" aria-label="Compare">
        <button
          type="button"
          aria-pressed={state.holding}
          onPointerDown={() => state.setHolding(true)}
          onPointerUp={() => state.setHolding(false)}
          onPointerLeave={() => state.setHolding(false)}
        >
          hold A <Key action="swap" />
        </button>
        {MODES.map((one) => (
          <button
            key={one.mode}
            type="button"
            aria-pressed={mode === one.mode}
            onClick={() => state.toggle(one.mode)}
          >
            {one.words} <Key action={one.action} />
          </button>
        ))}
      </div>
      <button
        type="button"
        className="plain"
        aria-pressed={state.grounded}
        disabled={!carried}
        title="the surroundings are held still, so that what drifts is seen to move"
        onClick={() => state.setGrounded(!state.grounded)}
      >
        ground still <Key action="ground" />
      </button>
      <div className="segments" role="group" aria-label="Zoom">
        {ZOOMS.map((one) => (
          <button
            key={one.words}
            type="button"
            aria-pressed={zoom === one.zoom}
            onClick={() => state.setZoom(one.zoom)}
          >
            {one.words} <Key action={one.action} />
          </button>
        ))}
      </div>
      {shot.rules && !state.drawing && (
        <button
          type="button"
          className="quiet"
          onClick={() => state.startDrawing(region?.id ?? null)}
        >
          {region ? "outline here" : "draw an outline"} <Key action="outlines" />
        </button>
      )}
    </div>
  );
}
