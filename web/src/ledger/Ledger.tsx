import { Fragment, useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import type { Attempt, Bench, Cell } from "../api/client";
import { SeverityStrokes, StateShape, type CellState } from "../ui/marks";
import { OutcomeShape } from "../ui/outcome";
import { ROOM, cellAt, standing, step } from "./walk";

function stateOf(cell: Cell, attempt: Attempt): CellState {
  if (cell.state !== "undecided") return cell.state as CellState;
  const check = attempt.check_of?.state;
  if (check === "waiting" || check === "running") return "checking";
  if (check === "failed" || (check === "done" && attempt.check_of?.overall === null))
    return "failed";
  return "undecided";
}

/** What a cell says aloud. */
export function cellWords(cell: Cell, attempt: Attempt): string {
  const state = stateOf(cell, attempt);
  if (state === "checking") return "being checked";
  if (state === "failed") return "could not be checked";
  const worst = cell.worst_word
    ? `worst: ${cell.worst_kind}, ${cell.worst_word}`
    : cell.overall === null
      ? "not checked yet"
      : cell.findings
        ? "nothing that reaches the bar"
        : "nothing found";
  const came = cell.outcome ? `; came back: ${cell.outcome}` : "";
  return `${state}${cell.asked ? ", asked for all the same" : ""}${cell.verdict?.carried ? ", carried over" : ""}; ${worst}${came}`;
}

type Props = { bench: Bench; current: Cell; onChoose: (cell: Cell) => void };

/** Regions down, attempts across, a mark in each cell: it is also how one moves about. */
export function Ledger({ bench, current, onChoose }: Props) {
  const grid = useRef<HTMLTableElement>(null);
  const [unfolded, setUnfolded] = useState(false);
  const attempts = standing(bench, current.attempt, unfolded);
  const older = bench.attempts.length - attempts.length;
  useEffect(() => {
    // The arrow keys walk from anywhere but from fields, lists and dialogs, which need them for themselves.
    const walk = (event: KeyboardEvent) => {
      if (
        !event.key.startsWith("Arrow") ||
        event.ctrlKey ||
        event.altKey ||
        event.metaKey ||
        document.querySelector("[role=dialog]")
      )
        return;
      if (
        event.target instanceof HTMLElement &&
        /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName)
      )
        return;
      const to = step(bench, current, event.key as "ArrowUp");
      event.preventDefault();
      if (to && to.id !== current.id) onChoose(to);
    };
    window.addEventListener("keydown", walk);
    return () => window.removeEventListener("keydown", walk);
  }, [bench, current, onChoose]);
  useEffect(() => {
    if (grid.current?.contains(document.activeElement))
      grid.current.querySelector<HTMLElement>('[aria-current="true"]')?.focus();
  }, [current.id]);
  return (
    <>
      {bench.attempts.length > ROOM && (
        <p className="m-0 text-right small">
          <button
            type="button"
            className="plain px-1 py-0 small"
            aria-expanded={unfolded}
            onClick={() => setUnfolded(!unfolded)}
          >
            {unfolded ? "only the newest of each source" : `${older} older folded: show`}
          </button>
        </p>
      )}
      <table
        ref={grid}
        className="w-full border-collapse"
        aria-label="Ledger: regions down, attempts across"
      >
        <thead>
          <tr>
            <th className="w-[74px] p-0 text-left font-normal">
              <span className="sr-only">region</span>
              {bench.role === "supervisor" && (
                <Link
                  to={`/jobs/${bench.job_id}?picture=${bench.id}`}
                  className="quiet small -ml-1 text-inherit no-underline"
                  aria-label="bring in another result"
                >
                  bring in
                </Link>
              )}
            </th>
            {attempts.map((attempt) => (
              <th
                key={attempt.id}
                scope="col"
                className="p-0 pb-1 text-center font-normal"
                title={`${attempt.method}, ${attempt.kind}`}
              >
                {attempt.number}
                <span className="sr-only">, {attempt.method}</span>
                {attempt.made_from.length > 0 && (
                  <span className="block text-[0.6875rem] leading-none">
                    from{" "}
                    {bench.attempts
                      .filter((one) => attempt.made_from.includes(one.id))
                      .map((one) => one.number)
                      .join("+")}
                  </span>
                )}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {bench.regions.map((region) => (
            <Fragment key={region.id}>
              <tr>
                <td colSpan={attempts.length + 1} className="small p-0 pt-1" aria-hidden="true">
                  {region.number} {region.name}
                </td>
              </tr>
              <tr>
                <th scope="row" className="p-0 pr-2 pb-1 text-left font-normal">
                  <img
                    src={`/api/pictures/${bench.id}/regions/${region.id}/crop/`}
                    alt={`${region.number} ${region.name}`}
                    className="block h-[46px] w-[66px] object-cover"
                  />
                </th>
                {attempts.map((attempt) => {
                  const cell = cellAt(bench, region.id, attempt.id);
                  if (!cell) return <td key={attempt.id} />;
                  const here = cell.id === current.id;
                  const state = stateOf(cell, attempt);
                  return (
                    <td key={attempt.id} className="p-[2px] align-top">
                      <button
                        type="button"
                        tabIndex={here ? 0 : -1}
                        aria-current={here}
                        onClick={() => onChoose(cell)}
                        data-state={state}
                        aria-label={`region ${region.number} ${region.name}, attempt ${attempt.number}: ${cellWords(cell, attempt)}`}
                        className="relative flex h-[46px] w-full flex-col items-center justify-center gap-[1px] border p-0"
                        style={{
                          borderColor: here ? "var(--ink)" : "var(--line)",
                          borderWidth: here ? 3 : 1,
                          background: here ? "var(--lift)" : "transparent",
                        }}
                      >
                        <StateShape state={state} />
                        {cell.outcome && (
                          <span className="absolute right-[1px] top-[1px]">
                            <OutcomeShape word={cell.outcome} side={11} />
                          </span>
                        )}
                        {cell.asked && (
                          <span
                            className="absolute left-[3px] top-[1px] text-[0.75rem] leading-none"
                            aria-hidden="true"
                          >
                            ?
                          </span>
                        )}
                        {cell.verdict?.carried && (
                          <span
                            className="absolute left-[2px] top-0 text-[0.6875rem] leading-none"
                            aria-hidden="true"
                          >
                            =
                          </span>
                        )}
                        {state !== "not needed" && state !== "checking" && state !== "failed" && (
                          <SeverityStrokes word={cell.worst_word} />
                        )}
                      </button>
                    </td>
                  );
                })}
              </tr>
            </Fragment>
          ))}
        </tbody>
      </table>
    </>
  );
}
