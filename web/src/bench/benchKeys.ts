import type { Answer } from "../api/client";
import type { Handlers } from "../keys";
import type { Step } from "./state";
import type { Beyond } from "./useBeyond";
import type { Findings } from "./useFindings";
import type { Ruler } from "./useRuling";
import { DESK } from "../ui/places";

type Given = {
  handlers: Handlers;
  mayRule: boolean;
  found: Findings;
  beyond: Beyond;
  onLook: () => void;
  ruler: Ruler;
  change: (step: Step) => void;
  outlining: boolean;
  cell: number;
  /** Whether something is ruled that words could be put to. */
  ruled: boolean;
  sendable: boolean;
  sendBack: () => void;
  asOffered: () => void;
  takeBack: () => void;
  putBack: () => void;
  go: (to: string) => void;
  spreadAt: string;
  outlinesAt: string;
  signOffAt: string;
  /** Null where there are none. */
  siblingsAt: string | null;
};

/** What every key of the Bench does; one that can do nothing now says why. */
export function benchKeys({
  handlers,
  mayRule,
  found,
  beyond,
  onLook,
  ruler,
  change,
  outlining,
  cell,
  ruled,
  sendable,
  sendBack,
  asOffered,
  takeBack,
  putBack,
  go,
  spreadAt,
  outlinesAt,
  signOffAt,
  siblingsAt,
}: Given): Handlers {
  const why = ruler.setTrouble;
  const noFinding = () =>
    !found.uncovered
      ? "Findings are shown once both sides were seen here: hold the key for the other side first."
      : found.detail.isPending
        ? "The findings are just being read."
        : found.ordered.length + beyond.list.length === 0
          ? "Nothing was found here."
          : null;
  const walk = (by: number) => () => {
    const reason = noFinding();
    why(reason);
    if (reason) return;
    beyond.walk(by);
    onLook();
  };
  const answer = (said: Answer) => () => {
    const reason = !mayRule
      ? "Only a supervisor of this job answers findings."
      : (noFinding() ??
        (found.finding || beyond.open ? null : "No finding is open: go to one first."));
    if (reason) why(reason);
    else if (beyond.open) {
      if (!beyond.answering)
        beyond.say(beyond.open.number, beyond.open.answer === said ? "unread" : said);
    } else if (!found.finding) why(reason);
    else if (!found.answering)
      found.say(found.finding.id, found.finding.answer === said ? "unread" : said);
  };
  return {
    ...handlers,
    bare: (down) => change({ type: "bare", bare: down }),
    spread: () => go(spreadAt),
    outlines: () => go(outlinesAt),
    signOff: () => go(signOffAt),
    nextFinding: walk(1),
    previousFinding: walk(-1),
    confirmed: answer("confirmed"),
    notThere: answer("not there"),
    acceptable: answer("acceptable"),
    passes: () => ruler.rule("passes"),
    passesAtSize: () => ruler.rule("passes at size"),
    rework: () => ruler.rule("rework"),
    rebuild: () => ruler.rule("rebuild"),
    ownFlaw: () => {
      if (!mayRule) return why("Only a supervisor of this job marks flaws.");
      found.own.mark.reset();
      change({ type: "mark", marking: outlining ? null : { cell, outline: null } });
    },
    bar: () => change({ type: "dialog", dialog: "bar" }),
    changes: () => change({ type: "dialog", dialog: "changes" }),
    trial: () => change({ type: "dialog", dialog: "trial" }),
    ask: () =>
      mayRule
        ? change({ type: "dialog", dialog: "ask" })
        : why("Only a supervisor of this job asks."),
    words: () =>
      !mayRule
        ? why("Only a supervisor of this job speaks of rulings.")
        : ruled
          ? change({ type: "dialog", dialog: "words" })
          : why("Nothing is ruled here yet: words belong to a ruling."),
    findingWords: () => {
      const reason = !mayRule
        ? "Only a supervisor of this job speaks of findings."
        : (noFinding() ?? (found.finding ? null : "No finding is open: go to one first."));
      if (reason) why(reason);
      else change({ type: "dialog", dialog: "finding words" });
    },
    leave: () =>
      mayRule
        ? change({ type: "dialog", dialog: "leave" })
        : why("Only a supervisor of this job lets a thing stay."),
    putBack,
    assemble: () => change({ type: "dialog", dialog: "assemble" }),
    offered: asOffered,
    siblings: () => (siblingsAt ? go(siblingsAt) : why("No picture of the job is near-identical.")),
    takeBack,
    sendBack: () =>
      sendable ? sendBack() : why("No region of this attempt is ruled rework or rebuild."),
    desk: () => go(DESK),
    history: () => change({ type: "dialog", dialog: "history" }),
  };
}
