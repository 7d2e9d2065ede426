import type { Change } from "../api/client";
import { settingsWords } from "./changes";

/** The one number or name that a change can carry. */
export function Setting({
  change,
  onChange,
  label,
}: {
  change: Change;
  onChange: (change: Change) => void;
  label: string;
}) {
  const values = (change.values ?? {}) as Record<string, unknown>;
  if (typeof values.pixels === "number") {
    return (
      <label className="flex items-center gap-1">
        <span className="sr-only">{label}: pixels</span>
        <input
          className="field w-[72px]"
          type="number"
          min={0}
          max={500}
          value={values.pixels}
          onChange={(event) =>
            onChange({ ...change, values: { ...values, pixels: Number(event.target.value) } })
          }
        />{" "}
        px
      </label>
    );
  }
  if (typeof values.method === "string") {
    return (
      <label>
        <span className="sr-only">{label}: method</span>
        <input
          className="field w-[220px]"
          value={values.method}
          onChange={(event) =>
            onChange({ ...change, values: { ...values, method: event.target.value } })
          }
        />
      </label>
    );
  }
  return settingsWords(change) ? <span className="small">{settingsWords(change)}</span> : null;
}
