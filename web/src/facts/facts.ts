import type { MethodKind, Shapes } from "../api/client";

export type Asked = Shapes["FactsAskedRequest"];
export type Known = Shapes["FactsOf"];
export type Row = { name: string; value: string };
export type CroppedWhen = NonNullable<Asked["cropped_when"]>;
export type Terms = NonNullable<Asked["terms"]>;
/** What is known of an attempt, as it is written down. */
export type Facts = {
  method: string;
  kind: MethodKind;
  maker: string;
  seconds: string;
  cost: string;
  terms: Terms;
  leftHouse: boolean | null;
  /** Before or after it was worked on; empty: nobody said. */
  croppedWhen: CroppedWhen;
  settings: Row[];
};
export const KINDS: MethodKind[] = ["by hand", "built in", "outside service"];

/** A setting as one writes it. */
export function written(value: unknown): string {
  if (value === true) return "yes";
  if (value === false) return "no";
  return Array.isArray(value) ? value.map(written).join(", ") : String(value);
}

/** A setting as it is kept: numbers, yes and no are that; several with commas are a list. */
export function read(text: string): unknown {
  const plain = text.trim();
  if (plain.includes(",")) return plain.split(",").map(read);
  if (plain === "yes" || plain === "no") return plain === "yes";
  return plain !== "" && Number.isFinite(Number(plain)) ? Number(plain) : plain;
}

export const rowsOf = (settings: Record<string, unknown>): Row[] =>
  Object.entries(settings)
    .filter(([name]) => name !== "terms")
    .map(([name, value]) => ({ name, value: written(value) }));

export const settingsOf = (rows: Row[]): Record<string, unknown> =>
  Object.fromEntries(
    rows.filter((row) => row.name.trim()).map((row) => [row.name.trim(), read(row.value)]),
  );

/** As it is asked for. */
export function asked(facts: Facts): Asked {
  return {
    method: facts.method.trim() || "unknown",
    kind: facts.kind,
    maker: facts.maker,
    seconds: facts.seconds ? Number(facts.seconds) : null,
    cost: facts.cost || null,
    terms: facts.terms,
    left_house: facts.leftHouse,
    cropped_when: facts.croppedWhen,
    settings: settingsOf(facts.settings),
  };
}

/** To begin from: what was said of the method's newest attempt in the job; its time and cost are its own. */
export function begunFrom(known: Known | undefined, method: string): Facts {
  return {
    method: known?.name ?? method,
    kind: known?.kind ?? "by hand",
    maker: known?.maker ?? "",
    seconds: "",
    cost: "",
    terms: (known?.terms ?? "") as Terms,
    leftHouse: known?.left_house ?? null,
    // Each result was cropped in its own way.
    croppedWhen: "",
    settings: rowsOf(known?.settings ?? {}),
  };
}
