import type { Change } from "../api/client";
import { counted } from "../ui/words";

/** A change's settings in words; empty where it has none. */
export function settingsWords(change: Change): string {
  const values = (change.values ?? {}) as {
    pixels?: number;
    degrees?: number[];
    boxes?: number[][];
    method?: string;
    sigma?: number;
  };
  if (typeof values.pixels === "number") return `${values.pixels} px`;
  if (values.degrees?.length)
    return `at ${values.degrees.map((angle) => `${angle.toLocaleString()}°`).join(", ")}`;
  if (typeof values.sigma === "number") return `σ ${values.sigma.toLocaleString()} of 255`;
  if (values.boxes?.length) return counted(values.boxes.length, "place", "places");
  return values.method ?? "";
}

const first: Record<string, Record<string, unknown>> = {
  "looser outline": { pixels: 8 },
  "tighter outline": { pixels: 4 },
  feather: { pixels: 4 },
  "another method": { method: "copy that fits its rim" },
};

/** A change as it is added by hand, with the setting it needs. */
export function withSetting(what: string): Change {
  return { what, values: first[what] ?? {}, because: [], why: "" };
}
