import type { Arrival, Intake } from "../api/client";

export type Part = "original" | "result" | "mask" | "outline" | "aside";
/** Where a person put a file: its picture (a group's name, or "picture 12" for one that is there already) and its part. */
export type Placed = Record<number, { group: string; part: Part; of?: number }>;
/** A mask, and the result that was made with it; null while nobody said which. */
export type OutlineOf = { arrival: Arrival; of: number | null };
export type Gathered = {
  key: string;
  name: string;
  picture: number | null;
  original: Arrival | null;
  mask: Arrival | null;
  results: Arrival[];
  outlines: OutlineOf[];
  aside: Arrival[];
};

/**
 * The suggested pairing with a person's corrections over it. `to`: the picture that one came from:
 * files that the names make no picture of are taken for its results.
 */
export function gathered(
  intake: Intake,
  placed: Placed,
  names: Record<string, string>,
  to: number | null = null,
): Gathered[] {
  const groups = new Map<string, Gathered>();
  const group = (key: string): Gathered => {
    const found = groups.get(key);
    if (found) return found;
    const picture = intake.job.pictures.find((one) => `picture ${one.id}` === key);
    const made: Gathered = {
      key,
      name: names[key] ?? picture?.name ?? key,
      picture: picture?.id ?? null,
      original: null,
      mask: null,
      results: [],
      outlines: [],
      aside: [],
    };
    groups.set(key, made);
    return made;
  };
  const put = (arrival: Arrival, key: string, part: Part, of: number | null = null) => {
    const into = group(key);
    if (part === "aside") into.aside.push(arrival);
    else if (part === "outline") into.outlines.push({ arrival, of });
    else if (part === "mask" && !into.mask && into.picture === null) into.mask = arrival;
    else if (part === "original" && !into.original && into.picture === null)
      into.original = arrival;
    else into.results.push(arrival);
  };
  // What a person said comes first, so that a suggestion cannot take its place.
  for (const arrival of intake.arrivals) {
    const said = placed[arrival.id];
    if (said) put(arrival, said.group, said.part, said.of ?? null);
  }
  for (const suggested of intake.groups) {
    const whole = suggested.original !== null && suggested.results.length > 0;
    const late = to !== null && suggested.picture === null && !whole;
    const picture = late ? to : suggested.picture;
    const key = picture === null ? suggested.name : `picture ${picture}`;
    const parts: [number | null, Part][] = [
      [suggested.original, "original"],
      [late ? null : suggested.mask, "mask"],
      ...suggested.results.map((id): [number, Part] => [id, "result"]),
    ];
    for (const [id, part] of parts) {
      const arrival = intake.arrivals.find((one) => one.id === id);
      if (arrival && !placed[arrival.id]) put(arrival, key, part);
    }
    // Its regions are there already: a mask is what the result was made with.
    const lone = suggested.results[0] ?? suggested.original;
    const outlines =
      late && suggested.mask !== null
        ? [...suggested.outlines, { result: lone, mask: suggested.mask }]
        : suggested.outlines;
    for (const { result, mask } of outlines) {
      const arrival = intake.arrivals.find((one) => one.id === mask);
      if (arrival && !placed[mask]) put(arrival, key, "outline", result);
    }
  }
  return [...groups.values()].sort((one, other) => one.name.localeCompare(other.name));
}

/** What stands in the way of bringing a group in; null if nothing does. */
export function missing(group: Gathered): string | null {
  const outlines = group.outlines.map((one) => one.arrival);
  const files = [group.original, group.mask, ...group.results, ...outlines];
  if (files.some((one) => one?.state === "reading")) return "being read";
  const results = group.results.map((one) => one.id);
  const of = group.outlines.map((one) => one.of ?? -1);
  if (of.some((one) => !results.includes(one))) return "an outline of no result";
  if (new Set(of).size < of.length) return "two outlines of one result";
  if (group.picture !== null) return group.results.length ? null : "no result";
  if (!group.original) return "no original";
  if (!group.results.length && !group.mask) return "no result and no mask";
  return null;
}

/** A maker's or method's name: the words of a file's name beyond its picture's name. */
export function methodFrom(words: string[], group: string): string {
  const picture = new Set(group.toLowerCase().split(/[^\p{L}\p{N}]+/u));
  return words.filter((word) => !picture.has(word.toLowerCase())).join(" ");
}
