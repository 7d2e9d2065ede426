import { useState, type FormEvent } from "react";
import { useSheet, type JobEdited, type JobSheet } from "../api/crew";

type SizeDraft = { id: number | null; name: string; spec: string };
type Draft = {
  name: string;
  client: string;
  use: string;
  deadline: string;
  sizes: SizeDraft[];
};

/** A moment as a field for date and time shows it, in the browser's own zone. */
const local = (at: string | null) => {
  if (!at) return "";
  const moment = new Date(at);
  return new Date(moment.getTime() - moment.getTimezoneOffset() * 60_000)
    .toISOString()
    .slice(0, 16);
};
const draftOf = ({ job }: JobSheet): Draft => ({
  name: job.name,
  client: job.client,
  use: job.use,
  deadline: local(job.deadline),
  sizes: job.sizes.map(({ id, name, spec }) => ({ id, name, spec })),
});

/** What was entered of a job, to be corrected. */
export function Terms({ sheet }: { sheet: JobSheet }) {
  const { edit } = useSheet(sheet.job.id);
  const [draft, setDraft] = useState(() => draftOf(sheet));
  const kept = JSON.stringify(draft) === JSON.stringify(draftOf(sheet));
  const change = (part: Partial<Draft>) => setDraft((old) => ({ ...old, ...part }));
  const size = (at: number, part: Partial<SizeDraft>) =>
    change({ sizes: draft.sizes.map((one, place) => (place === at ? { ...one, ...part } : one)) });
  const move = (at: number) => {
    const sizes = [...draft.sizes];
    const [one] = sizes.splice(at, 1);
    if (one) change({ sizes: [one, ...sizes] });
  };
  const save = (event: FormEvent) => {
    event.preventDefault();
    if (kept || edit.isPending) return;
    edit.mutate(
      {
        name: draft.name,
        client: draft.client,
        use: draft.use as JobEdited["use"],
        deadline: draft.deadline ? new Date(draft.deadline).toISOString() : null,
        sizes: draft.sizes,
      },
      { onSuccess: (now) => setDraft(draftOf(now)) },
    );
  };
  return (
    <form className="rule-top py-2" aria-label="What was entered" onSubmit={save}>
      <div className="grid grid-cols-4 gap-4">
        <label>
          name
          <input
            className="field block w-full"
            required
            maxLength={160}
            value={draft.name}
            onChange={(event) => change({ name: event.target.value })}
          />
        </label>
        <label>
          client
          <input
            className="field block w-full"
            maxLength={160}
            value={draft.client}
            onChange={(event) => change({ client: event.target.value })}
          />
        </label>
        <label>
          deadline
          <input
            className="field block w-full"
            type="datetime-local"
            value={draft.deadline}
            onChange={(event) => change({ deadline: event.target.value })}
          />
        </label>
        <span>
          <span id="job-for">for</span>
          <select
            aria-labelledby="job-for"
            className="field block w-full"
            value={draft.use}
            onChange={(event) => change({ use: event.target.value })}
          >
            {sheet.uses.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </select>
        </span>
      </div>
      <fieldset className="m-0 mt-2 border-0 p-0">
        <legend>sizes; the first is judged for</legend>
        {draft.sizes.map((one, at) => (
          <div
            key={one.id ?? `new ${at}`}
            className="mt-1 flex items-center gap-2"
            role="group"
            aria-label={`size ${at + 1}`}
          >
            <input
              className="field w-[200px]"
              aria-label="called"
              required
              maxLength={80}
              value={one.name}
              onChange={(event) => size(at, { name: event.target.value })}
            />
            <input
              className="field w-[260px]"
              aria-label="as large as"
              required
              maxLength={80}
              placeholder="420x594mm@150dpi@700mm"
              value={one.spec}
              onChange={(event) => size(at, { spec: event.target.value })}
            />
            {at > 0 && (
              <button type="button" className="quiet" onClick={() => move(at)}>
                judge for this one
              </button>
            )}
            {draft.sizes.length > 1 && (
              <button
                type="button"
                className="quiet"
                onClick={() => change({ sizes: draft.sizes.filter((_, place) => place !== at) })}
              >
                leave it out
              </button>
            )}
          </div>
        ))}
        <button
          type="button"
          className="quiet mt-1"
          onClick={() => change({ sizes: [...draft.sizes, { id: null, name: "", spec: "" }] })}
        >
          another size
        </button>
      </fieldset>
      <p className="m-0 mt-2 flex items-center gap-3">
        <button type="submit" className="plain" aria-disabled={kept || edit.isPending}>
          keep it
        </button>
        {!kept && (
          <button type="button" className="quiet" onClick={() => setDraft(draftOf(sheet))}>
            as it was
          </button>
        )}
        <span className="small">
          A size that is added leaves regions undecided at that size only.
        </span>
        {edit.isError && <strong role="alert">{edit.error.message}</strong>}
      </p>
    </form>
  );
}
