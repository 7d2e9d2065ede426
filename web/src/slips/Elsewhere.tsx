import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import type { Slip } from "../api/client";
import { usePutSentBack, type Elsewhere as Proof } from "../api/slips";
import { trialsQuery } from "../api/trials";
import { useKeys } from "../keys";
import { Key } from "../ui/Key";
import { counted } from "../ui/words";

/** What a comparison of everything outside showed, in one sentence. */
export function elsewhereWords(proof: Proof): string {
  const all = proof.compared.toLocaleString();
  if (proof.compared === 0)
    return "of another size or depth than what was sent: nothing can be compared";
  if (proof.same)
    return `everything else is the same in all ${all} pixels${proof.saved_anew ? ", but for being saved anew as a JPEG" : ""}`;
  return `${counted(proof.differing, "pixel")} of ${all} differ elsewhere`;
}

/** Boxes as places one can name. */
export const placeWords = ([x = 0, y = 0, w = 0, h = 0]: readonly number[]) =>
  `${Math.round(w)} by ${Math.round(h)} px at ${Math.round(x)}, ${Math.round(y)}`;

/** What was locked, and everything else that was not sent: proven the same, or where it is not. */
export function Untouched({ slip }: { slip: Slip }) {
  if (slip.locks.length === 0 && !slip.elsewhere) return null;
  return (
    <section aria-label="What was not sent" className="rule-top py-2">
      <h2 className="text-[1rem]">What was not sent</h2>
      <ul className="m-0 list-none p-0">
        {slip.locks.map((lock) => (
          <li key={lock.number}>
            region {lock.number}:{" "}
            {lock.same ? (
              `the same in all ${lock.compared.toLocaleString()} pixels${lock.saved_anew ? ", but for being saved anew as a JPEG" : ""}`
            ) : (
              <strong>
                touched: {counted(lock.differing, "pixel")} of {lock.compared.toLocaleString()}{" "}
                differ
              </strong>
            )}
          </li>
        ))}
        {slip.elsewhere && (
          <li>
            {slip.elsewhere.same ? (
              elsewhereWords(slip.elsewhere)
            ) : (
              <strong>{elsewhereWords(slip.elsewhere)}</strong>
            )}{" "}
            <span className="small">
              (farther than {slip.elsewhere.margin} px from what was sent)
            </span>
          </li>
        )}
      </ul>
      {slip.elsewhere && !slip.elsewhere.same && <Places slip={slip} proof={slip.elsewhere} />}
    </section>
  );
}

function Places({ slip, proof }: { slip: Slip; proof: Proof }) {
  const putBack = usePutSentBack(slip);
  const trials = useQuery({ ...trialsQuery(slip.picture), enabled: slip.mine }).data ?? [];
  const run = trials.find(
    (one) =>
      one.method === "sent attempt put back outside" && one.made_from === slip.returned_number,
  );
  const busy = run && (run.state === "waiting" || run.state === "running");
  const mayRepair = slip.mine && slip.returned !== null && proof.compared > 0;
  const repair = () => {
    if (mayRepair && !putBack.isPending && !busy) putBack.mutate();
  };
  useKeys({ putBack: repair });
  return (
    <>
      {proof.places.length > 0 && (
        <ul className="my-1 list-none pl-4 small" aria-label="Where it differs">
          {proof.places.map((place) => (
            <li key={place.bbox.join(" ")}>
              {placeWords(place.bbox)}: {counted(place.differing, "pixel")}, by{" "}
              {counted(place.largest, "level")} at most
            </li>
          ))}
        </ul>
      )}
      {mayRepair && (
        <p className="m-0 flex items-center gap-3">
          <button
            type="button"
            className="plain"
            aria-disabled={putBack.isPending || busy}
            onClick={repair}
          >
            put back what was sent there <Key action="putBack" />
          </button>
          <span role="status" className="small">
            {run?.state === "done" ? (
              <>
                made:{" "}
                <Link to={`/pictures/${slip.picture}?attempt=${run.attempt}`}>
                  attempt {run.attempt}
                </Link>
              </>
            ) : busy ? (
              "being made …"
            ) : run?.state === "failed" ? (
              `could not: ${run.reason}`
            ) : (
              "a new attempt; what came back stays"
            )}
          </span>
          {putBack.isError && <strong role="alert">{putBack.error.message}</strong>}
        </p>
      )}
    </>
  );
}
