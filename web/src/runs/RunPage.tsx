import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { runQuery, type Run } from "../api/runs";
import { Interval } from "../tally/Interval";
import { StateShape, type CellState } from "../ui/marks";
import { Notice } from "../ui/Notice";
import { DESK } from "../ui/places";
import { counted, seconds } from "../ui/words";
import { addressOf, farWords } from "./stops";

/** How a run went: what was ruled, how often one agreed with what was not shown, how fast. */
export function RunPage() {
  const { id } = useParams();
  const run = useQuery({ ...runQuery(Number(id)), refetchOnMount: "always" });
  if (run.isPending) return <Notice title="Looking how the run went …" busy />;
  if (!run.data)
    return (
      <Notice title="The run cannot be shown" alert>
        {run.error?.message} <Link to={DESK}>to the desk</Link>
      </Notice>
    );
  return <Sheet run={run.data} />;
}

function Sheet({ run }: { run: Run }) {
  const next = run.stops.find((one) => one.number === run.next);
  return (
    <main className="mx-auto max-w-[1080px] px-6 py-4">
      <div className="mb-2 flex items-baseline gap-4">
        <h1 className="text-xl">Run</h1>
        <span role="status">{farWords(run)}</span>
        <span className="ml-auto flex gap-4">
          {next && <Link to={addressOf(run.id, next)}>go on with it</Link>}
          <Link to={DESK}>to the desk</Link>
        </span>
      </div>
      <section className="rule-top py-2" aria-label="Agreement">
        <h2 className="text-[1rem]">Asked in full</h2>
        {run.agreement.of === 0 ? (
          <p className="m-0">
            None of the sure ones was asked in full so far, so nothing is known of agreement.
          </p>
        ) : (
          <p className="m-0 flex items-center gap-3">
            Of {counted(run.agreement.of, "sure one")} whose likely ruling was not shown, you ruled{" "}
            {run.agreement.count} the same way. <Interval share={run.agreement} />
            {run.agreement.few ? "They are few." : ""}
          </p>
        )}
        {run.own.of > 0 && (
          <p className="m-0">
            Of {counted(run.own.of, "ruling")} of yours that came up again on another day, you ruled{" "}
            {run.own.same} as before
            {run.own.kappa === null
              ? ""
              : ` (kappa ${run.own.kappa.toFixed(2)}, ${run.own.low.toFixed(2)} to ${run.own.high.toFixed(2)})`}
            . Nobody else is shown this.
          </p>
        )}
        {run.seconds !== null && (
          <p className="m-0">
            A ruling took {seconds(run.seconds)} as a median.
            {run.hasty &&
              " That is quicker than most people can look at both sides; some of these may deserve a second visit."}
          </p>
        )}
      </section>
      <section className="rule-top py-2" aria-label="Stops">
        <h2 className="text-[1rem]">Stops</h2>
        <table className="border-collapse text-left">
          <thead>
            <tr>
              <th scope="col" className="pr-6 font-normal">
                place
              </th>
              <th scope="col" className="pr-6 font-normal">
                ruled
              </th>
              <th scope="col" className="pr-6 font-normal">
                likely
              </th>
            </tr>
          </thead>
          <tbody>
            {run.stops.map((one) => (
              <tr key={one.number} className="align-baseline">
                <th scope="row" className="py-0.5 pr-6 font-normal">
                  <Link to={addressOf(run.id, one)}>
                    {one.name}, region {one.region}, attempt {one.attempt}
                  </Link>
                </th>
                <td className="pr-6">
                  <span className="flex items-center gap-2">
                    <StateShape
                      state={(one.ruled ?? (one.gone ? "not needed" : "undecided")) as CellState}
                    />
                    {one.ruled ?? (one.gone ? "decided elsewhere" : "not yet")}
                  </span>
                </td>
                <td>
                  {one.offered
                    ? `${one.offered.ruling}, ${Math.round(100 * Math.max(one.offered.chance, 1 - one.offered.chance))} %`
                    : ""}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    </main>
  );
}
