import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { kindsQuery, useSetBar } from "../api/queries";
import { Dialog } from "./Dialog";
import { KindPicture } from "./marks";
import { counted } from "./words";

/** The job whose client it is, and the bar as it stands: severity by kind. */
type Barred = { id: number; name: string; bar: Record<string, number> };

/** The severities that a bar can stand at; the words' own steps. */
const STEPS: { value: number; words: string }[] = [
  { value: 0.15, words: "as soon as it can be seen" },
  { value: 0.4, words: "from clear on" },
  { value: 0.7, words: "when glaring" },
  { value: 1.01, words: "never" },
];

/** A bar in a few words. */
export const barWords = (bar: Record<string, number>) => {
  const kinds = Object.keys(bar).length;
  return kinds === 0 ? "nothing that can be seen" : `more of ${counted(kinds, "kind")}`;
};

const nearest = (value: number | undefined) =>
  value === undefined
    ? 0.15
    : STEPS.reduce((best, one) =>
        Math.abs(one.value - value) < Math.abs(best.value - value) ? one : best,
      ).value;

/** Per kind, the severity from which it fails for this client. */
export function ClientBarDialog({
  job,
  mayRule,
  open,
  onClose,
}: {
  job: Barred;
  mayRule: boolean;
  open: boolean;
  onClose: () => void;
}) {
  return (
    <Dialog open={open} onClose={onClose} title={`What ${job.name} lets pass`} wide>
      {open && <Form job={job} mayRule={mayRule} onClose={onClose} />}
    </Dialog>
  );
}

function Form({ job, mayRule, onClose }: { job: Barred; mayRule: boolean; onClose: () => void }) {
  const kinds = useQuery(kindsQuery);
  const set = useSetBar(job.id);
  const [bar, setBar] = useState<Record<string, number>>(job.bar);
  if (!kinds.data) return <p role="status">One moment …</p>;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        set.mutate(bar, { onSuccess: onClose });
      }}
    >
      <p className="mt-0">
        A flaw fails from the severity set here, at the size that is judged for. What lies under the
        bar is still shown, and holds nothing up.
      </p>
      <div className="grid grid-cols-2 gap-x-8">
        {kinds.data.map(({ name, says }) => (
          <label key={name} className="rule-top flex items-center gap-2 py-1" title={says}>
            <KindPicture kind={name} />
            <span className="flex-1">{name}</span>
            <select
              className="field"
              disabled={!mayRule}
              value={nearest(bar[name])}
              onChange={(event) =>
                setBar((old) => {
                  const value = Number(event.target.value);
                  return value === 0.15
                    ? Object.fromEntries(Object.entries(old).filter(([kind]) => kind !== name))
                    : { ...old, [name]: value };
                })
              }
            >
              {STEPS.map((one) => (
                <option key={one.value} value={one.value}>
                  {one.words}
                </option>
              ))}
            </select>
          </label>
        ))}
      </div>
      {set.isError && (
        <p role="alert">
          <strong>{set.error.message}</strong>
        </p>
      )}
      {mayRule && (
        <p className="mb-0 flex gap-2">
          <button type="submit" className="plain" disabled={set.isPending}>
            keep this bar
          </button>
          <button type="button" className="plain" onClick={onClose}>
            leave it as it was
          </button>
        </p>
      )}
    </form>
  );
}
