import { useState } from "react";
import type { Slip } from "../api/client";
import { useSlipTalk } from "../api/slips";
import { HANDABLE, SAID, SAYABLE } from "../ui/slipWords";
import { moment } from "../ui/words";

/** Questions and answers, declining, handing over, settling. */
export function Talk({ slip, worker }: { slip: Slip; worker: boolean }) {
  const { say, handOver } = useSlipTalk(slip.id);
  const [words, setWords] = useState("");
  const [to, setTo] = useState<string>("");
  const by = slip.mine ? "supervisor" : worker ? "worker" : null;
  const sayable = SAYABLE.filter((one) => one.by === by && one.states.includes(slip.state));
  const handable = slip.mine && HANDABLE.includes(slip.state);
  const others = slip.workers.filter((one) => one.id !== slip.worker.id);
  const trouble = say.error?.message ?? handOver.error?.message;
  const done = { onSuccess: () => setWords("") };
  const busy = say.isPending || handOver.isPending;
  if (slip.words.length === 0 && sayable.length === 0 && !handable) return null;
  return (
    <section className="rule-top py-2" aria-label="What was said">
      {slip.words.length > 0 && (
        <>
          <h2 className="text-[1rem]">What was said</h2>
          <ol className="m-0 list-none p-0">
            {slip.words.map((one) => (
              <li key={one.at} className="py-0.5">
                <strong>{one.person}</strong> {SAID[one.what]}
                {one.words && `: ${one.words}`} <span className="small">{moment(one.at)}</span>
              </li>
            ))}
          </ol>
        </>
      )}
      {(sayable.length > 0 || handable) && (
        <div className="mt-1 flex flex-wrap items-end gap-2">
          <label className="flex min-w-[20rem] flex-1 flex-col">
            in words
            <textarea
              className="field"
              rows={1}
              maxLength={4000}
              value={words}
              onChange={(event) => setWords(event.target.value)}
            />
          </label>
          {sayable.map((one) => (
            <button
              key={one.what}
              type="button"
              className="plain"
              disabled={busy || (one.what !== "settled" && words.trim() === "")}
              onClick={() => say.mutate({ what: one.what, words }, done)}
            >
              {one.words}
            </button>
          ))}
          {handable && others.length > 0 && (
            <span className="flex items-center gap-1">
              <label className="flex items-center gap-1">
                hand it over to
                <select
                  className="field"
                  value={to}
                  onChange={(event) => setTo(event.target.value)}
                >
                  <option value="">choose …</option>
                  {others.map((one) => (
                    <option key={one.id ?? "desk"} value={one.id ?? "desk"}>
                      {one.name}
                    </option>
                  ))}
                </select>
              </label>
              <button
                type="button"
                className="plain"
                disabled={busy || to === ""}
                onClick={() =>
                  handOver.mutate(
                    { worker: to === "desk" ? null : Number(to), words },
                    {
                      onSuccess: () => {
                        setWords("");
                        setTo("");
                      },
                    },
                  )
                }
              >
                hand over
              </button>
            </span>
          )}
        </div>
      )}
      {trouble && (
        <p role="alert" className="m-0">
          <strong>{trouble}</strong>
        </p>
      )}
    </section>
  );
}
