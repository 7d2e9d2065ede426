/** What the Bench remembers of itself while it is open, and the only ways in which that changes. */

export type Dialogs =
  | "history"
  | "assemble"
  | "changes"
  | "bar"
  | "trial"
  | "ask"
  | "leave"
  | "facts"
  | "words"
  | "finding words";
/** What was seen of a cell: the original, the attempt, the attempt at 100 %. */
export type Seeing = { original?: boolean; attempt?: boolean; actual?: boolean };
export type Marking = { cell: number; outline: number[][] | null };

export type State = {
  cell: number | undefined;
  seen: Record<number, Seeing>;
  /** The finding that is open in a cell; null: none, missing: the first. */
  finding: Record<number, number | null>;
  dialog: Dialogs | null;
  marking: Marking | null;
  own: number | null;
  /** A change outside every region: "attempt.number". */
  outside: string | null;
  /** Whether every mark is hidden, a key being held. */
  bare: boolean;
};

export type Step =
  | { type: "go"; cell: number }
  | { type: "saw"; cell: number; what: Seeing }
  | { type: "open finding"; cell: number; finding: number | null }
  | { type: "dialog"; dialog: Dialogs | null }
  | { type: "mark"; marking: Marking | null }
  | { type: "own"; own: number | null }
  | { type: "outside"; outside: string | null }
  | { type: "bare"; bare: boolean };

export const started = (cell: number | undefined): State => ({
  cell,
  seen: {},
  finding: {},
  dialog: null,
  marking: null,
  own: null,
  outside: null,
  bare: false,
});

export function reduce(state: State, step: Step): State {
  switch (step.type) {
    case "go":
      return { ...state, cell: step.cell, outside: null };
    case "saw": {
      const old = state.seen[step.cell];
      const known = (Object.keys(step.what) as (keyof Seeing)[]).every((one) => old?.[one]);
      return known
        ? state
        : { ...state, seen: { ...state.seen, [step.cell]: { ...old, ...step.what } } };
    }
    case "open finding":
      return { ...state, finding: { ...state.finding, [step.cell]: step.finding } };
    case "dialog":
      return { ...state, dialog: step.dialog };
    case "mark":
      return { ...state, marking: step.marking };
    case "own":
      return { ...state, own: step.own };
    case "outside":
      return { ...state, outside: step.outside };
    case "bare":
      return state.bare === step.bare ? state : { ...state, bare: step.bare };
  }
}
