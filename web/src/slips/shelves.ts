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

/** What is due first comes first; what has no day comes last, the newest first. */
export const byDue = <T extends { due: string | null; id: number }>(one: T, other: T) =>
  (one.due ?? "9999").localeCompare(other.due ?? "9999") || other.id - one.id;
