import type { Action } from "../keys";
import { Key } from "../ui/Key";
import type { How } from "./state";
import type { Drawer, ToolName } from "./useDrawing";

const WAYS: { tool: ToolName; action: Action; words: string }[] = [
  { tool: "around", action: "around", words: "around" },
  { tool: "corners", action: "corners", words: "points" },
  { tool: "paint", action: "paint", words: "paint" },
  { tool: "colour", action: "colour", words: "colour" },
  { tool: "veil", action: "veil", words: "laid over" },
  { tool: "bend", action: "bend", words: "move points" },
];
const HOWS: { how: How; action: Action; words: string }[] = [
  { how: "add", action: "adds", words: "adds" },
  { how: "subtract", action: "takesAway", words: "takes away" },
  { how: "intersect", action: "keepsOnly", words: "keeps only" },
];

/** What one draws with, on the picture, and only while something is drawn. */
export function DrawingTools({ drawer }: { drawer: Drawer }) {
  const { settings, choose } = drawer;
  const draws = settings.tool !== "veil" && settings.tool !== "bend";
  const empty = drawer.area.mask === null;
  return (
    <div
      role="toolbar"
      aria-label="Drawing the outline"
      className="absolute inset-x-2 bottom-2 z-10 mx-auto flex w-fit flex-col gap-1 px-2 py-1"
      style={{ background: "var(--ground)", border: "1px solid var(--ink)" }}
    >
      <span className="tools flex flex-wrap items-center gap-x-2 gap-y-1">
        <span className="segments" role="group" aria-label="Draw by">
          {WAYS.map((one) => (
            <button
              key={one.tool}
              type="button"
              aria-pressed={settings.tool === one.tool}
              onClick={() => choose({ tool: one.tool })}
            >
              {one.words} <Key action={one.action} />
            </button>
          ))}
        </span>
        {draws && !(settings.tool === "colour" && settings.inside) && (
          <span className="segments" role="group" aria-label="What is drawn">
            {HOWS.map((one) => (
              <button
                key={one.how}
                type="button"
                aria-pressed={settings.how === one.how}
                onClick={() => choose({ how: one.how })}
              >
                {one.words} <Key action={one.action} />
              </button>
            ))}
          </span>
        )}
      </span>
      <span className="tools flex min-h-[1.75rem] flex-wrap items-center gap-x-4 gap-y-1">
        <Amount drawer={drawer} />
        <span className="ml-auto flex items-center gap-1">
          <button
            type="button"
            className="quiet"
            disabled={empty}
            onClick={() => drawer.shape("grow", 1)}
          >
            grow <Key action="larger" />
          </button>
          <button
            type="button"
            className="quiet"
            disabled={empty}
            onClick={() => drawer.shape("grow", -1)}
          >
            shrink <Key action="smaller" />
          </button>
          <button
            type="button"
            className="quiet"
            disabled={empty}
            onClick={() => drawer.shape("smooth", 2)}
          >
            smooth <Key action="smooth" />
          </button>
          <button
            type="button"
            className="quiet"
            disabled={empty}
            onClick={() => drawer.shape("reach the frame")}
          >
            to the frame <Key action="toFrame" />
          </button>
        </span>
      </span>
    </div>
  );
}

/** How thick, how tolerant; in words what a click does. */
function Amount({ drawer }: { drawer: Drawer }) {
  const { settings, choose } = drawer;
  const stepper = (words: string) => (
    <span className="flex items-center gap-1 whitespace-nowrap tabular-nums">
      <button type="button" className="quiet" aria-label="less" onClick={() => drawer.adjust(-1)}>
        − <Key action="thinner" />
      </button>
      {words}
      <button type="button" className="quiet" aria-label="more" onClick={() => drawer.adjust(1)}>
        + <Key action="thicker" />
      </button>
    </span>
  );
  switch (settings.tool) {
    case "paint":
      return stepper(`brush ${2 * settings.radius} px`);
    case "colour":
      return (
        <>
          {stepper(`tolerance ${settings.tolerance}`)}
          <label className="flex items-center gap-1">
            <input
              type="checkbox"
              checked={settings.connected && !settings.inside}
              disabled={settings.inside}
              onChange={(event) => choose({ connected: event.target.checked })}
            />
            joined to the spot
          </label>
          <label className="flex items-center gap-1">
            <input
              type="checkbox"
              checked={settings.inside}
              onChange={(event) => choose({ inside: event.target.checked })}
            />
            inside the outline
          </label>
        </>
      );
    case "veil":
      return (
        <>
          {stepper(`marks ${Math.round((1 - settings.belief) * 100)} %`)}
          <span>draw around the lettering, then click inside strokes</span>
        </>
      );
    case "corners":
      return <span>click for each point; the first one again, or Esc, closes it</span>;
    case "bend":
      return <span>drag a point or an edge; Alt and a click takes a point away</span>;
    case "around":
      return <span>drag around it in one go</span>;
  }
}
