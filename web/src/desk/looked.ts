import { EVERYTHING, type DeskLooked } from "../api/queries";

export const NEEDS = [
  "undecided",
  "sent back",
  "changed outside",
  "to assemble",
  "asked",
  "asked of you",
  "done",
  "signed off",
  "empty",
  "failed checks",
] as const satisfies readonly DeskLooked["need"][];
export const SEVERITIES = [
  "faint",
  "clear",
  "glaring",
] as const satisfies readonly DeskLooked["severity"][];
export const DUE = [
  "overdue",
  "today",
  "week",
  "none",
] as const satisfies readonly DeskLooked["due"][];
export const SORTS = ["deadline", "worst", "name"] as const satisfies readonly DeskLooked["sort"][];

const oneOf = <T extends string>(some: readonly T[], one: string | null): T | null =>
  some.find((other) => other === one) ?? null;

/** What is looked for, from an address; what it does not know it leaves out. */
export function lookedOf(address: URLSearchParams): DeskLooked {
  const job = address.get("job");
  return {
    q: address.get("q") ?? "",
    job: job && /^[0-9]{1,15}$/.test(job) ? Number(job) : null,
    need: oneOf(NEEDS, address.get("need")) ?? "",
    kind: address.get("kind") ?? "",
    severity: oneOf(SEVERITIES, address.get("severity")) ?? "",
    method: address.get("method") ?? "",
    due: oneOf(DUE, address.get("due")) ?? "",
    charge: /^(mine|nobody|[0-9]{1,15})$/.exec(address.get("charge") ?? "")?.[0] ?? "",
    sort: oneOf(SORTS, address.get("sort")) ?? EVERYTHING.sort,
  };
}

/** An address of what is looked for: what looks for everything is left out. */
export function addressOf(looked: DeskLooked): Record<string, string> {
  return Object.fromEntries(
    Object.entries(looked)
      .filter(([name, value]) => value !== null && value !== EVERYTHING[name as keyof DeskLooked])
      .map(([name, value]) => [name, String(value)]),
  );
}

export const looksForAll = (looked: DeskLooked) => Object.keys(addressOf(looked)).length === 0;
