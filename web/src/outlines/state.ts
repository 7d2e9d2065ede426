import type { Shapes } from "../api/client";
import type { Act } from "../api/outlines";

export type Area = Shapes["AreaOf"];
export type { Act } from "../api/outlines";
export type How = Act["how"];
/** One thing that was done, and the area as it was then. */
export type Step = { area: Area; act: Act | null; words: string };
/** An outline that is being drawn: of a region, or of one that is not there yet. */
export type Drawing = {
  region: number | null;
  /** The version that was begun from. */
  version: number | null;
  steps: Step[];
  /** Which step is shown; what lies beyond was undone. */
  at: number;
};

export const EMPTY: Area = { mask: null, parts: [], bbox: null, pixels: 0, words: "" };
/** So many steps are kept to be undone. */
export const MOST_STEPS = 60;

export type Change =
  | { type: "begin"; region: number | null; version: number | null; area: Area; words: string }
  | { type: "did"; step: Step }
  /** The last act was done anew, with another tolerance or one spot more. */
  | { type: "redid"; step: Step }
  | { type: "undo" }
  | { type: "redo" }
  /** Somebody else's version is the one that would be replaced now. */
  | { type: "from"; version: number }
  | { type: "leave" };

export function reduce(drawing: Drawing | null, change: Change): Drawing | null {
  if (change.type === "begin") {
    const { region, version, area, words } = change;
    return { region, version, steps: [{ area, act: null, words }], at: 0 };
  }
  if (!drawing || change.type === "leave") return null;
  const { steps, at } = drawing;
  switch (change.type) {
    case "did": {
      const kept = [...steps.slice(0, at + 1), change.step];
      const over = Math.max(0, kept.length - MOST_STEPS);
      return { ...drawing, steps: kept.slice(over), at: kept.length - 1 - over };
    }
    case "redid":
      return { ...drawing, steps: [...steps.slice(0, at), change.step], at };
    case "undo":
      return at === 0 ? drawing : { ...drawing, at: at - 1 };
    case "redo":
      return at === steps.length - 1 ? drawing : { ...drawing, at: at + 1 };
    case "from":
      return { ...drawing, version: change.version };
  }
}

export const shownStep = (drawing: Drawing): Step => drawing.steps[drawing.at] ?? first(drawing);
const first = (drawing: Drawing): Step =>
  drawing.steps[0] ?? { area: EMPTY, act: null, words: "nothing yet" };
/** The area before the step that is shown. */
export const before = (drawing: Drawing): Area =>
  drawing.steps[drawing.at - 1]?.area ?? first(drawing).area;
/** Whether anything would be lost by leaving. */
export const changed = (drawing: Drawing): boolean =>
  shownStep(drawing).area.mask !== first(drawing).area.mask;

const STORE = "zweiblick.outline.";

/** What was drawn survives a page that is loaded anew. */
export function remember(picture: number, drawing: Drawing | null): void {
  try {
    if (drawing && changed(drawing))
      sessionStorage.setItem(
        STORE + picture,
        JSON.stringify({
          ...drawing,
          steps: drawing.steps.slice(-20),
          at: Math.max(0, drawing.at - Math.max(0, drawing.steps.length - 20)),
        }),
      );
    else sessionStorage.removeItem(STORE + picture);
  } catch {
    // A full store loses nothing but this.
  }
}

export function remembered(picture: number): Drawing | null {
  try {
    const kept = JSON.parse(sessionStorage.getItem(STORE + picture) ?? "null") as Drawing | null;
    return kept && Array.isArray(kept.steps) && kept.steps.length > 0 ? kept : null;
  } catch {
    return null;
  }
}
