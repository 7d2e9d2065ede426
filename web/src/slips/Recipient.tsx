import type { Slip } from "../api/client";
import type { Outside } from "../api/outside";
import { counted, span } from "../ui/words";

/** Whom a slip goes to and until when. `method`: a built-in method instead of a person; `tier`: the
 * outside service under these terms. */
export type To = {
  worker: number | null;
  method: string | null;
  tier: string | null;
  due: string | null;
};

const OF_METHOD = "method:";
const OF_TIER = "tier:";

const chosen = (to: To) =>
  to.tier ? OF_TIER + to.tier : to.method ? OF_METHOD + to.method : String(to.worker ?? "");

const recipient = (value: string): Partial<To> => ({
  worker: /^[0-9]+$/.test(value) ? Number(value) : null,
  method: value.startsWith(OF_METHOD) ? value.slice(OF_METHOD.length) : null,
  tier: value.startsWith(OF_TIER) ? value.slice(OF_TIER.length) : null,
});

/** Whom it goes to, and the day it is due. */
export function Recipient({
  slip,
  outside,
  draft,
  onChange,
}: {
  slip: Slip;
  outside: Outside | undefined;
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
          value={chosen(draft)}
          onChange={({ target: { value } }) => onChange(recipient(value))}
        >
          <optgroup label="people">
            {slip.workers.map((worker) => (
              <option key={worker.id ?? "desk"} value={worker.id ?? ""}>
                {worker.name}
                {worker.usual ? `, usually ${span(worker.usual.seconds)}` : ""}
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
          {outside?.name && outside.tiers.length > 0 && (
            <optgroup label={`${outside.name}, outside the house`}>
              {outside.tiers.map((tier) => (
                <option
                  key={tier.name}
                  value={OF_TIER + tier.name}
                  disabled={tier.refused !== null}
                >
                  {tier.terms}: {counted(tier.credits, "credit")} a region
                  {tier.refused ? " (not for this job)" : ""}
                </option>
              ))}
            </optgroup>
          )}
        </select>
      </span>
      {!draft.method && !draft.tier && (
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
