import { useEffect, useLayoutEffect, useRef, useSyncExternalStore } from "react";

/** The one key map. `held` actions act while the key is down. `single` keys can be changed or switched off (WCAG 2.1.4). */
export const ACTIONS = {
  swap: { words: "show A while held", key: "s", held: true, where: "Look" },
  beat: { words: "A and B in turn", key: "t", held: false, where: "Look" },
  wipe: { words: "A and B on either side of a line", key: "w", held: false, where: "Look" },
  beside: { words: "A and B beside each other, in step", key: "v", held: false, where: "Look" },
  difference: { words: "what differs between A and B", key: "i", held: false, where: "Look" },
  less: { words: "move the line towards A; amplify less", key: ",", held: false, where: "Look" },
  more: { words: "move the line towards B; amplify more", key: ".", held: false, where: "Look" },
  turn: {
    words: "turn the line; another measure of difference",
    key: "r",
    held: false,
    where: "Look",
  },
  pin: { words: "pin the spot that is read, or let it go", key: "p", held: false, where: "Look" },
  nextA: { words: "another image to compare with", key: "x", held: false, where: "Look" },
  turnRound: { words: "A becomes B and B becomes A", key: "\\", held: false, where: "Look" },
  aid: { words: "see through an aid, or as it is", key: "z", held: false, where: "Look" },
  nextAid: { words: "the next aid", key: "y", held: false, where: "Look" },
  aidSides: { words: "the aid on both sides, on A, on B", key: "0", held: false, where: "Look" },
  bare: { words: "hide every mark while held", key: "d", held: true, where: "Look" },
  zoomActual: {
    words: "100 %: one picture pixel on one screen pixel",
    key: "1",
    held: false,
    where: "Look",
  },
  zoomDouble: { words: "200 %", key: "2", held: false, where: "Look" },
  zoomRegion: { words: "fit the region", key: "3", held: false, where: "Look" },
  zoomWhole: { words: "whole picture", key: "4", held: false, where: "Look" },
  zoomDelivery: {
    words: "as large as delivered, at the size judged for",
    key: "5",
    held: false,
    where: "Look",
  },
  nextFinding: { words: "next finding", key: "f", held: false, where: "Findings" },
  previousFinding: { words: "previous finding", key: "e", held: false, where: "Findings" },
  evidence: {
    words: "the chosen finding's picture, large",
    key: ";",
    held: false,
    where: "Findings",
  },
  confirmed: { words: "confirmed", key: "c", held: false, where: "Findings" },
  notThere: { words: "not there", key: "o", held: false, where: "Findings" },
  acceptable: {
    words: "acceptable: there, but may stay",
    key: "a",
    held: false,
    where: "Findings",
  },
  findingWords: { words: "words on the finding", key: ":", held: false, where: "Findings" },
  ownFlaw: {
    words: "outline a flaw of your own, or leave it",
    key: "+",
    held: false,
    where: "Findings",
  },
  bar: { words: "the client's bar", key: "9", held: false, where: "Rule" },
  passes: { words: "passes", key: "j", held: false, where: "Rule" },
  passesAtSize: {
    words: "passes at the sizes that the findings let pass, or the one judged for",
    key: "k",
    held: false,
    where: "Rule",
  },
  rework: { words: "rework", key: "l", held: false, where: "Rule" },
  rebuild: { words: "rebuild by hand, from the original", key: "m", held: false, where: "Rule" },
  ask: { words: "ask somebody else to look at it", key: "@", held: false, where: "Rule" },
  words: { words: "words on the last ruling", key: '"', held: false, where: "Rule" },
  leave: { words: "the thing stays in the picture", key: "_", held: false, where: "Rule" },
  offered: { words: "rule as a run offers", key: "Enter", held: false, where: "Rule" },
  siblings: {
    words: "the region in near-identical pictures; back to the bench",
    key: "&",
    held: false,
    where: "Go",
  },
  sendBack: {
    words: "write a slip from this attempt's failed regions",
    key: "b",
    held: false,
    where: "Rule",
  },
  takeBack: { words: "take the last ruling back", key: "u", held: false, where: "Rule" },
  changes: {
    words: "what changed from A, or from what it was made from",
    key: "6",
    held: false,
    where: "Findings",
  },
  assemble: { words: "put the best of several together", key: "7", held: false, where: "Rule" },
  pick: { words: "pick the attempt as the best here", key: "=", held: false, where: "Spread" },
  blind: {
    words: "blind pairs: two attempts without names",
    key: "/",
    held: false,
    where: "Spread",
  },
  leftBetter: {
    words: "blind pair: the left one holds better",
    key: "[",
    held: false,
    where: "Spread",
  },
  rightBetter: {
    words: "blind pair: the right one holds better",
    key: "]",
    held: false,
    where: "Spread",
  },
  noDifference: { words: "blind pair: no difference", key: "-", held: false, where: "Spread" },
  spread: {
    words: "spread every attempt of the region; back to the bench",
    key: "g",
    held: false,
    where: "Go",
  },
  cold: { words: "look at results cold", key: "8", held: false, where: "Go" },
  next: { words: "next undecided region", key: "n", held: false, where: "Go" },
  desk: { words: "back to the desk", key: "q", held: false, where: "Go" },
  history: { words: "what was said and done", key: "h", held: false, where: "Go" },
  trial: { words: "try methods on the region", key: "*", held: false, where: "Rule" },
  putBack: {
    words: "put the original back outside the regions: a new attempt",
    key: "'",
    held: false,
    where: "Rule",
  },
  signOff: { words: "sign off what holds everywhere", key: "!", held: false, where: "Go" },
  outlines: {
    words: "draw the regions' outlines; back to the bench",
    key: "#",
    held: false,
    where: "Go",
  },
  around: { words: "draw around it in one go", key: "f", held: false, where: "Outline" },
  corners: { words: "set points one by one", key: "g", held: false, where: "Outline" },
  paint: { words: "paint it", key: "h", held: false, where: "Outline" },
  colour: { words: "pick a colour", key: "j", held: false, where: "Outline" },
  veil: {
    words: "pick lettering that the ground shows through, inside the outline",
    key: "k",
    held: false,
    where: "Outline",
  },
  bend: { words: "move the outline's points", key: "l", held: false, where: "Outline" },
  adds: { words: "what is drawn is added", key: "r", held: false, where: "Outline" },
  takesAway: { words: "what is drawn is taken away", key: "t", held: false, where: "Outline" },
  keepsOnly: { words: "only what is drawn stays", key: "y", held: false, where: "Outline" },
  thinner: { words: "a thinner brush; less tolerance", key: ",", held: false, where: "Outline" },
  thicker: { words: "a thicker brush; more tolerance", key: ".", held: false, where: "Outline" },
  larger: { words: "grow by a pixel", key: "+", held: false, where: "Outline" },
  smaller: { words: "shrink by a pixel", key: "-", held: false, where: "Outline" },
  smooth: { words: "smooth the outline", key: "o", held: false, where: "Outline" },
  toFrame: { words: "push it to the frame's edge", key: "e", held: false, where: "Outline" },
  undo: { words: "undo", key: "u", held: false, where: "Outline" },
  redo: { words: "do it again", key: "i", held: false, where: "Outline" },
  keep: { words: "keep the outline", key: "n", held: false, where: "Outline" },
  edit: {
    words: "draw at this region, or leave it as it is",
    key: "b",
    held: false,
    where: "Outline",
  },
  play: { words: "play, or stop", key: "p", held: false, where: "Time" },
  speed: { words: "full, half, quarter speed", key: "r", held: false, where: "Time" },
  rangeFrom: { words: "the range begins here", key: "(", held: false, where: "Time" },
  rangeTo: { words: "the range ends here", key: ")", held: false, where: "Time" },
  rangeWhole: { words: "the range is the whole shot", key: "0", held: false, where: "Time" },
  rangeFinding: {
    words: "the range is the chosen finding's frames",
    key: "y",
    held: false,
    where: "Time",
  },
  keyFrame: { words: "the next key frame", key: "h", held: false, where: "Time" },
  ground: { words: "hold the ground still", key: "k", held: false, where: "Time" },
  slice: { words: "a line of the picture through time", key: "z", held: false, where: "Time" },
  nextRegion: { words: "the next region", key: "v", held: false, where: "Time" },
  nextAttempt: { words: "the next attempt", key: "b", held: false, where: "Time" },
  help: { words: "all keys", key: "?", held: false, where: "Go" },
} as const;
export type Action = keyof typeof ACTIONS;
/** Keys that are not single characters and so need no switch. */
export const FIXED_KEYS: [string, string][] = [
  ["arrow keys", "walk the ledger; on a shot: a frame back or on, with Shift ten"],
  ["Shift + arrow keys", "move the picture; with a spot pinned, the spot by a pixel"],
  ["arrow keys, Space", "while an outline is drawn: move the cross, act where it is"],
  ["Esc", "close a dialog; end a line of points"],
  ["Tab", "every control, in order"],
];

type Settings = { on: boolean; keys: Partial<Record<Action, string>> };
const STORE = "zweiblick.keys";
const listeners = new Set<() => void>();
let settings: Settings = read();

function read(): Settings {
  try {
    const kept = JSON.parse(localStorage.getItem(STORE) ?? "null") as Settings | null;
    return kept && typeof kept.on === "boolean"
      ? { on: kept.on, keys: kept.keys ?? {} }
      : { on: true, keys: {} };
  } catch {
    return { on: true, keys: {} };
  }
}

function write(next: Settings): void {
  settings = next;
  localStorage.setItem(STORE, JSON.stringify(next));
  listeners.forEach((call) => call());
}

export function keyOf(action: Action): string {
  return settings.keys[action] ?? ACTIONS[action].key;
}

/** What is on a shot's screen besides what has to do with time. */
const ON_SHOT: readonly Action[] = [
  "swap",
  "wipe",
  "difference",
  "less",
  "more",
  "nextA",
  "turnRound",
  "bare",
  "zoomActual",
  "zoomDouble",
  "zoomRegion",
  "zoomWhole",
  "nextFinding",
  "previousFinding",
  "passes",
  "rework",
  "takeBack",
  "outlines",
  "desk",
  "help",
];
/** What is on the outlines' screen besides drawing itself. */
const ON_OUTLINES: readonly Action[] = [
  "swap",
  "nextA",
  "zoomActual",
  "zoomDouble",
  "zoomRegion",
  "zoomWhole",
  "outlines",
  "desk",
  "help",
];

type Screen = "picture" | "outlines" | "shot";

function screensOf(action: Action): Screen[] {
  if (ACTIONS[action].where === "Outline") return ["outlines"];
  if (ACTIONS[action].where === "Time") return ["shot"];
  const more: Screen[] = ["picture"];
  if (ON_OUTLINES.includes(action)) more.push("outlines");
  if (ON_SHOT.includes(action)) more.push("shot");
  return more;
}

/** Whether two actions can be asked for on the same screen, so that they need keys of their own. */
export function together(one: Action, other: Action): boolean {
  const screens = screensOf(other);
  return screensOf(one).some((screen) => screens.includes(screen));
}

/** Give an action another key. Returns what stands in the way, or null. */
export function changeKey(action: Action, key: string): string | null {
  if ([...key].length !== 1 || key.trim() === "") return "one visible character is needed";
  const taken = (Object.keys(ACTIONS) as Action[]).find(
    (other) => other !== action && keyOf(other) === key && together(action, other),
  );
  if (taken) return `“${key}” already means “${ACTIONS[taken].words}”`;
  write({ ...settings, keys: { ...settings.keys, [action]: key } });
  return null;
}

export function switchKeys(on: boolean): void {
  write({ ...settings, on });
}

export function resetKeys(): void {
  write({ on: true, keys: {} });
}

export function useKeySettings(): Settings {
  return useSyncExternalStore(
    (call) => {
      listeners.add(call);
      return () => listeners.delete(call);
    },
    () => settings,
  );
}

function typing(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName)) &&
    // A box that is ticked takes no letters.
    !(target instanceof HTMLInputElement && target.type === "checkbox")
  );
}

const acting = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement && target.closest("button, a, summary") !== null;

/** Handlers by action; a `held` one gets `true` when its key goes down and `false` when it comes up. Key repeat is ignored. */
export type Handlers = Partial<Record<Action, (down: boolean) => void>>;

export function useKeys(handlers: Handlers, active = true): void {
  const current = useRef(handlers);
  useLayoutEffect(() => {
    current.current = handlers;
  });
  useEffect(() => {
    if (!active) return undefined;
    const holding = new Set<Action>();
    const find = (event: KeyboardEvent): Action | undefined =>
      (Object.keys(ACTIONS) as Action[]).find(
        (action) =>
          current.current[action] &&
          (keyOf(action) === event.key || keyOf(action) === event.key.toLowerCase()),
      );
    const release = (action: Action) => {
      holding.delete(action);
      current.current[action]?.(false);
    };
    const down = (event: KeyboardEvent) => {
      if (
        !settings.on ||
        event.repeat ||
        event.ctrlKey ||
        event.metaKey ||
        event.altKey ||
        typing(event.target)
      )
        return;
      if (document.querySelector("[role=dialog]")) return;
      // On a button or a link it acts there.
      if (event.key === "Enter" && acting(event.target)) return;
      const action = find(event);
      const handler = action && current.current[action];
      if (!action || !handler) return;
      event.preventDefault();
      if (ACTIONS[action].held) holding.add(action);
      handler(true);
    };
    const up = (event: KeyboardEvent) => {
      const action = find(event);
      if (action && holding.has(action)) release(action);
    };
    const letGo = () => [...holding].forEach(release);
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    window.addEventListener("blur", letGo);
    return () => {
      letGo();
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
      window.removeEventListener("blur", letGo);
    };
  }, [active]);
}
