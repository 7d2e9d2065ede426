import type { Slip } from "../api/client";

/** Whom a slip goes to and until when. `method`: a built-in method instead of a person. */
export type To = { worker: number | null; method: string | null; due: string | null };

const OF_METHOD = "method:";

/** Whom it goes to, and the day it is due. */
export function Recipient({
  slip,
  draft,
  onChange,
}: {
  slip: Slip;
  draft: To;
  onChange: (to: Partial<To>) => void;
}) {
  return (
    <>
      <span className="flex items-center gap-1">
        <span id="slip-to">to</span>{" "}
        <select
          aria-labelledby="slip-to"
          className="field"
          value={draft.method ? OF_METHOD + draft.method : (draft.worker ?? "")}
          onChange={({ target: { value } }) =>
            onChange(
              value.startsWith(OF_METHOD)
                ? { worker: null, method: value.slice(OF_METHOD.length) }
                : { worker: value === "" ? null : Number(value), method: null },
            )
          }
        >
          <optgroup label="people">
            {slip.workers.map((worker) => (
              <option key={worker.id ?? "desk"} value={worker.id ?? ""}>
                {worker.name}
              </option>
            ))}
          </optgroup>
          <optgroup label="built-in methods">
            {slip.methods.map((method) => (
              <option key={method} value={OF_METHOD + method}>
                {method}
              </option>
            ))}
          </optgroup>
        </select>
      </span>
      {!draft.method && (
        <label className="flex items-center gap-1">
          due
          <input
            type="date"
            className="field"
            value={draft.due ?? ""}
            onChange={(event) => onChange({ due: event.target.value || null })}
          />
        </label>
      )}
    </>
  );
}
