import { useState } from "react";
import type { Shapes } from "../api/client";
import { EVERYTHING, type DeskLooked } from "../api/queries";
import { counted } from "../ui/words";
import { DUE, looksForAll, NEEDS, SEVERITIES, SORTS } from "./looked";

const NEED_WORDS: Record<(typeof NEEDS)[number], string> = {
  undecided: "awaits a decision",
  "sent back": "all ruled, some sent back",
  "changed outside": "holds, but changed outside",
  "to assemble": "to be put together",
  asked: "somebody is asked",
  "asked of you": "your second look is waited for",
  done: "done, not signed off",
  "signed off": "signed off",
  empty: "no attempt or no region yet",
  "failed checks": "a check failed",
};
const SORT_WORDS: Record<(typeof SORTS)[number], string> = {
  deadline: "by deadline",
  worst: "worst first",
  name: "by name",
};

const SEVERITY_WORDS: Record<(typeof SEVERITIES)[number], string> = {
  faint: "faint or worse",
  clear: "clear or worse",
  glaring: "glaring",
};
const DUE_WORDS: Record<(typeof DUE)[number], string> = {
  overdue: "overdue",
  today: "due today",
  week: "due within a week",
  none: "without a deadline",
};

/** What is seldom looked for, and asked for only when one wants it. */
const FURTHER = ["job", "kind", "severity", "method", "due", "charge"] as const;

/** Looking for pictures: words, and what they need. */
export function Looking({
  desk,
  looked,
  onLook,
}: {
  desk: Shapes["Desk"];
  looked: DeskLooked;
  onLook: (looked: DeskLooked) => void;
}) {
  const look = (part: Partial<DeskLooked>) => onLook({ ...looked, ...part });
  const narrowed = FURTHER.some((one) => looked[one]);
  const [open, setOpen] = useState(false);
  return (
    <search className="mb-2 flex flex-wrap items-center gap-3">
      <input
        type="search"
        className="field w-[220px]"
        aria-label="pictures and jobs by name or number"
        placeholder="name, job or number"
        maxLength={200}
        value={looked.q}
        onChange={(event) => look({ q: event.target.value })}
      />
      <select
        className="field"
        aria-label="what they need"
        value={looked.need}
        onChange={(event) => look({ need: event.target.value as DeskLooked["need"] })}
      >
        <option value="">whatever they need</option>
        {NEEDS.map((need) => (
          <option key={need} value={need}>
            {NEED_WORDS[need]}
          </option>
        ))}
      </select>
      <select
        className="field"
        aria-label="in which order"
        value={looked.sort}
        onChange={(event) => look({ sort: event.target.value as DeskLooked["sort"] })}
      >
        {SORTS.map((sort) => (
          <option key={sort} value={sort}>
            {SORT_WORDS[sort]}
          </option>
        ))}
      </select>
      <button
        type="button"
        className="quiet"
        aria-expanded={open || narrowed}
        disabled={narrowed}
        onClick={() => setOpen(!open)}
      >
        narrow it down
      </button>
      {!looksForAll(looked) && (
        <>
          <button type="button" className="quiet" onClick={() => onLook(EVERYTHING)}>
            show all
          </button>
          <span className="small" aria-live="polite">
            {counted(desk.matching, "picture")} of {desk.total}
          </span>
        </>
      )}
      {(open || narrowed) && <Further desk={desk} looked={looked} look={look} />}
    </search>
  );
}

/** By job, flaw, method, day, and who is in charge. */
function Further({
  desk,
  looked,
  look,
}: {
  desk: Shapes["Desk"];
  looked: DeskLooked;
  look: (part: Partial<DeskLooked>) => void;
}) {
  return (
    <div className="flex w-full flex-wrap items-center gap-3">
      {desk.jobs.length > 1 && (
        <select
          className="field"
          aria-label="of which job"
          value={looked.job ?? ""}
          onChange={(event) =>
            look({ job: event.target.value ? Number(event.target.value) : null })
          }
        >
          <option value="">of any job</option>
          {desk.jobs.map((job) => (
            <option key={job.id} value={job.id}>
              {job.name}
            </option>
          ))}
        </select>
      )}
      {(desk.kinds.length > 1 || looked.kind) && (
        <select
          className="field"
          aria-label="worst flaw"
          value={looked.kind}
          onChange={(event) => look({ kind: event.target.value })}
        >
          <option value="">any flaw</option>
          {[...new Set([...desk.kinds, ...(looked.kind ? [looked.kind] : [])])].map((kind) => (
            <option key={kind} value={kind}>
              worst: {kind}
            </option>
          ))}
        </select>
      )}
      <select
        className="field"
        aria-label="how visible"
        value={looked.severity}
        onChange={(event) => look({ severity: event.target.value as DeskLooked["severity"] })}
      >
        <option value="">however visible</option>
        {SEVERITIES.map((one) => (
          <option key={one} value={one}>
            {SEVERITY_WORDS[one]}
          </option>
        ))}
      </select>
      {(desk.methods.length > 1 || looked.method) && (
        <select
          className="field"
          aria-label="with an attempt by"
          value={looked.method}
          onChange={(event) => look({ method: event.target.value })}
        >
          <option value="">by any method</option>
          {[...new Set([...desk.methods, ...(looked.method ? [looked.method] : [])])].map(
            (method) => (
              <option key={method} value={method}>
                tried: {method}
              </option>
            ),
          )}
        </select>
      )}
      <select
        className="field"
        aria-label="due"
        value={looked.due}
        onChange={(event) => look({ due: event.target.value as DeskLooked["due"] })}
      >
        <option value="">due whenever</option>
        {DUE.map((one) => (
          <option key={one} value={one}>
            {DUE_WORDS[one]}
          </option>
        ))}
      </select>
      {(desk.supervisors.length > 1 || looked.charge) && (
        <select
          className="field"
          aria-label="in charge"
          value={looked.charge}
          onChange={(event) => look({ charge: event.target.value })}
        >
          <option value="">whoever is in charge</option>
          <option value="mine">you are in charge</option>
          <option value="nobody">nobody is in charge</option>
          {desk.supervisors.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
      )}
    </div>
  );
}
