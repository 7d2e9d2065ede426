import { Link } from "react-router";
import type { Attempt, Bench, Cell } from "../api/client";
import { stateWords as slipStates } from "../ui/slipWords";
import { OutcomeShape } from "../ui/outcome";
import { counted } from "../ui/words";

/** What came before in this cell: lots, cold looks, slips, passes that came over. */
export function CellNotes({
  bench,
  cell,
  attempt,
}: {
  bench: Bench;
  cell: Cell;
  attempt: Attempt;
}) {
  const slip = bench.slips
    .filter((one) => one.attempt === attempt.id && one.regions.includes(cell.region))
    .at(-1);
  const from = bench.attempts.filter((one) => attempt.made_from.includes(one.id));
  const stop = bench.regions.find((one) => one.id === cell.region)?.spent?.stop;
  return (
    <>
      {stop && (
        <p className="m-0">
          <strong>Stop?</strong> {stop}
        </p>
      )}
      {cell.verdict?.words && (
        <p className="m-0" aria-label="words on the ruling">
          {cell.verdict.person}: “{cell.verdict.words}”
        </p>
      )}
      {cell.asked && (
        <p className="m-0">
          Not needed any more, but asked for all the same: one folded cell in twenty is, by lot, to
          see whether the order was right.
        </p>
      )}
      {cell.cold_looks > 0 && (
        <p className="small m-0">
          noticed in {cell.noticed} of {counted(cell.cold_looks, "cold look")}
        </p>
      )}
      {cell.outcome && (
        <p className="m-0 flex items-center gap-2">
          <OutcomeShape word={cell.outcome} />{" "}
          <span>
            sent back; now: <strong>{cell.outcome}</strong>{" "}
            <Link to={`/slips/${attempt.slip}`}>the slip</Link>
          </span>
        </p>
      )}
      {cell.verdict?.carried && (
        <p className="m-0">
          Passed in attempt {from.map((one) => one.number).join(", ")}; every pixel here is the
          same, so the pass came over.
        </p>
      )}
      {slip && !cell.outcome && (
        <p className="m-0">
          <Link to={`/slips/${slip.id}`}>slip {slip.round}</Link>:{" "}
          {slipStates[slip.state] ?? slip.state}
        </p>
      )}
    </>
  );
}
