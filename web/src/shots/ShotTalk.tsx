import { useState } from "react";
import { useShotSlips, type Shot, type ShotSlip } from "../api/shots";
import { Trouble } from "../ui/Trouble";
import { HANDABLE, SAID, SAYABLE } from "../ui/slipWords";
import { moment } from "../ui/words";

/** Questions and answers, declining, handing over. */
export function ShotTalk({ shot, slip }: { shot: Shot; slip: ShotSlip }) {
  const { step } = useShotSlips(shot.id);
  const [words, setWords] = useState("");
  // A shot's slip is settled where its answer is looked at.
  const sayable = SAYABLE.filter(
    (one) =>
      one.what !== "settled" &&
      (one.by === "worker" ? slip.mine : shot.rules) &&
      one.states.includes(slip.state),
  );
  const others = shot.workers.filter((one) => one.name !== slip.recipient);
  const handable = shot.rules && HANDABLE.includes(slip.state) && others.length > 0;
  const say = (
    event: "handed over" | (typeof SAYABLE)[number]["what"],
    worker: number | null = null,
  ) => {
    if (!step.isPending)
      step.mutate({ slip: slip.id, event, words, worker }, { onSuccess: () => setWords("") });
  };
  return (
    <div role="group" aria-label={`What was said on slip ${slip.round}`}>
      {slip.words_said.map((one) => (
        <p key={one.at} className="m-0 small">
          <strong>{one.person}</strong> {SAID[one.what]}
          {one.words && `: ${one.words}`} {moment(one.at)}
        </p>
      ))}
      {(sayable.length > 0 || handable) && (
        <span className="flex flex-wrap items-center gap-2">
          <input
            className="field min-w-[9rem] flex-1"
            aria-label={`words on slip ${slip.round}`}
            placeholder={sayable.length > 0 ? "in words" : "words, if any"}
            maxLength={4000}
            value={words}
            onChange={(event) => setWords(event.target.value)}
          />
          {sayable.map((one) => (
            <button
              key={one.what}
              type="button"
              className="plain"
              aria-disabled={step.isPending || words.trim() === ""}
              title={words.trim() === "" ? "say it in words first" : undefined}
              onClick={() => words.trim() && say(one.what)}
            >
              {one.words}
            </button>
          ))}
          {handable && (
            <select
              className="field"
              aria-label={`hand slip ${slip.round} over`}
              value=""
              onChange={(event) => say("handed over", Number(event.target.value))}
            >
              <option value="">hand over to …</option>
              {others.map((one) => (
                <option key={one.id} value={one.id}>
                  {one.name}
                </option>
              ))}
            </select>
          )}
        </span>
      )}
      <Trouble error={step.error} />
    </div>
  );
}
