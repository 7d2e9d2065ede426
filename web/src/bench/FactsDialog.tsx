import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Attempt, Bench } from "../api/client";
import { methodsOfJobQuery, useAttempts } from "../api/facts";
import { asked, rowsOf, type Facts, type Terms } from "../facts/facts";
import { FurtherFacts } from "../facts/FurtherFacts";
import { MethodFacts } from "../facts/MethodFacts";
import { Dialog } from "../ui/Dialog";
import { Trouble } from "../ui/Trouble";

type Props = {
  bench: Bench;
  askedSize: number | null;
  attempt: Attempt;
  open: boolean;
  onClose: () => void;
};

/** How an attempt came to be: corrected, or the attempt withdrawn. */
export function FactsDialog(props: Props) {
  const { attempt, open, onClose } = props;
  return (
    <Dialog open={open} onClose={onClose} title={`What is known of attempt ${attempt.number}`} wide>
      {open && <Form {...props} />}
    </Dialog>
  );
}

const factsOf = (attempt: Attempt): Facts => ({
  method: attempt.method,
  kind: attempt.kind as Facts["kind"],
  maker: attempt.maker,
  seconds: attempt.seconds === null ? "" : String(attempt.seconds),
  cost: attempt.cost ?? "",
  terms: (typeof attempt.settings.terms === "string" ? attempt.settings.terms : "") as Terms,
  leftHouse: attempt.left_house,
  croppedWhen: attempt.cropped_when as Facts["croppedWhen"],
  settings: rowsOf(attempt.settings),
});

function Form({ bench, askedSize, attempt, onClose }: Props) {
  const known = useQuery(methodsOfJobQuery(bench.job_id));
  const { correct, withdraw } = useAttempts(bench.id, askedSize);
  const [facts, setFacts] = useState(() => factsOf(attempt));
  const [from, setFrom] = useState(attempt.made_from);
  const [sure, setSure] = useState(false);
  const earlier = bench.attempts.filter((one) => one.number < attempt.number);
  const busy = correct.isPending || withdraw.isPending;
  const label = `attempt ${attempt.number}`;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        const numbers = earlier.filter((one) => from.includes(one.id)).map((one) => one.number);
        if (!busy)
          correct.mutate(
            { id: attempt.id, body: { ...asked(facts), made_from: numbers } },
            { onSuccess: onClose },
          );
      }}
    >
      <MethodFacts
        facts={facts}
        methods={known.data?.methods ?? []}
        label={label}
        onChange={setFacts}
      />
      <div className="py-2">
        <FurtherFacts
          facts={facts}
          terms={known.data?.terms ?? []}
          label={label}
          onChange={setFacts}
        />
      </div>
      {earlier.length > 0 && (
        <fieldset className="m-0 border-0 p-0">
          <legend className="p-0">made from</legend>
          <span className="flex flex-wrap gap-x-4">
            {earlier.map((one) => (
              <label key={one.id} className="flex items-center gap-1">
                <input
                  type="checkbox"
                  checked={from.includes(one.id)}
                  onChange={(event) =>
                    setFrom((old) =>
                      event.target.checked
                        ? [...old, one.id]
                        : old.filter((other) => other !== one.id),
                    )
                  }
                />
                attempt {one.number}
              </label>
            ))}
          </span>
        </fieldset>
      )}
      <Trouble error={correct.error ?? withdraw.error} />
      <p className="rule-top mb-0 mt-3 flex items-center gap-3 pt-3">
        <button type="submit" className="plain" aria-disabled={busy}>
          keep this
        </button>
        <span className="ml-auto">
          {sure ? (
            <>
              <button
                type="button"
                className="plain"
                disabled={busy}
                onClick={() => withdraw.mutate(attempt.id, { onSuccess: onClose })}
              >
                yes, withdraw attempt {attempt.number}
              </button>{" "}
              <button type="button" className="quiet" onClick={() => setSure(false)}>
                no
              </button>
            </>
          ) : (
            <button type="button" className="quiet" onClick={() => setSure(true)}>
              withdraw this attempt
            </button>
          )}
        </span>
      </p>
    </form>
  );
}
