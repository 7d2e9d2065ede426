/** What slips are said to be, and what can be said on them, of pictures and of shots. */

import type { Shapes } from "../api/client";

export const stateWords: Record<string, string> = {
  written: "written, not sent yet",
  sent: "sent",
  working: "being worked",
  returned: "came back, being looked at",
  rechecked: "came back",
  failed: "could not be worked",
  question: "asks a question",
  declined: "declined",
  settled: "settled",
  withdrawn: "withdrawn",
};

/** Not back yet. */
export const OUT = ["written", "sent", "working", "question"];
/** Whether a day is over. */
export const late = (due: string, now = new Date()) =>
  new Date(`${due}T23:59:59`).getTime() < now.getTime();

type What = Shapes["SlipSaidRequest"]["what"];
/** What somebody did by saying it. */
export const SAID: Record<string, string> = {
  asked: "asks",
  answered: "answers",
  declined: "declines",
  "handed over": "handed it over",
  settled: "settled it",
};
/** What somebody can say on a slip in each of its states. */
export const SAYABLE: {
  what: What;
  by: "worker" | "supervisor";
  states: string[];
  words: string;
}[] = [
  { what: "asked", by: "worker", states: ["sent", "working"], words: "ask" },
  { what: "declined", by: "worker", states: ["sent", "working", "question"], words: "decline it" },
  { what: "answered", by: "supervisor", states: ["question"], words: "answer" },
  { what: "settled", by: "supervisor", states: ["returned", "rechecked"], words: "settle it" },
];
/** States in which it can go to somebody else. */
export const HANDABLE = ["sent", "working", "question", "declined", "failed"];
