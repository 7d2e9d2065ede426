import type { Shapes } from "../api/client";
import { EVERYTHING, type DeskLooked } from "../api/queries";
import { counted } from "../ui/words";
import { looksForAll, NEEDS, SORTS } from "./looked";

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
    </search>
  );
}
