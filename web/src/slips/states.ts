/** How slips stand, in words and on shelves. */

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

/** In the order in which they want somebody's attention. */
export const shelves: { title: string; states: string[]; empty: string }[] = [
  { title: "Wants an answer", states: ["question", "declined"], empty: "" },
  { title: "Came back", states: ["rechecked", "returned"], empty: "Nothing came back yet." },
  { title: "Not sent yet", states: ["written", "failed"], empty: "" },
  { title: "Out", states: ["sent", "working"], empty: "Nothing is out." },
  { title: "Settled", states: ["settled"], empty: "" },
  { title: "Withdrawn", states: ["withdrawn"], empty: "" },
];

/** A retoucher's own: what is with them comes first, by the day it is due. */
export const retouchers = [
  { title: "With you", states: ["sent", "working", "question"], empty: "Nothing is with you." },
  { title: "Handed in", states: ["returned", "rechecked"], empty: "" },
  { title: "Settled", states: ["settled"], empty: "" },
  { title: "Declined", states: ["declined"], empty: "" },
];

/** Not back yet. */
export const OUT = ["written", "sent", "working", "question"];
/** Whether a day is over. */
export const late = (due: string, now = new Date()) =>
  new Date(`${due}T23:59:59`).getTime() < now.getTime();

/** What is due first comes first; what has no day comes last, the newest first. */
export const byDue = <T extends { due: string | null; id: number }>(one: T, other: T) =>
  (one.due ?? "9999").localeCompare(other.due ?? "9999") || other.id - one.id;
