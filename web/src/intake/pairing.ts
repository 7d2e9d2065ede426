import type { Arrival, Intake } from "../api/client";

export type Part = "original" | "result" | "mask" | "aside";
/** Where a person put a file: its picture (a group's name, or "picture 12" for one that is there already) and its part. */
export type Placed = Record<number, { group: string; part: Part }>;
export type Gathered = {
  key: string;
  name: string;
  picture: number | null;
  original: Arrival | null;
  mask: Arrival | null;
  results: Arrival[];
  aside: Arrival[];
};

/** The suggested pairing with a person's corrections over it. */
export function gathered(
  intake: Intake,
  placed: Placed,
  names: Record<string, string>,
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
      aside: [],
    };
    groups.set(key, made);
    return made;
  };
  const put = (arrival: Arrival, key: string, part: Part) => {
    const into = group(key);
    if (part === "aside") into.aside.push(arrival);
    else if (part === "mask" && !into.mask && into.picture === null) into.mask = arrival;
    else if (part === "original" && !into.original && into.picture === null)
      into.original = arrival;
    else into.results.push(arrival);
  };
  // What a person said comes first, so that a suggestion cannot take its place.
  for (const arrival of intake.arrivals) {
    const said = placed[arrival.id];
    if (said) put(arrival, said.group, said.part);
  }
  for (const suggested of intake.groups) {
    const parts: [number | null, Part][] = [
      [suggested.original, "original"],
      [suggested.mask, "mask"],
      ...suggested.results.map((id): [number, Part] => [id, "result"]),
    ];
    for (const [id, part] of parts) {
      const arrival = intake.arrivals.find((one) => one.id === id);
      if (arrival && !placed[arrival.id]) put(arrival, suggested.name, part);
    }
  }
  return [...groups.values()].sort((one, other) => one.name.localeCompare(other.name));
}

/** What stands in the way of bringing a group in; null if nothing does. */
export function missing(group: Gathered): string | null {
  const files = [group.original, group.mask, ...group.results];
  if (files.some((one) => one?.state === "reading")) return "being read";
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
