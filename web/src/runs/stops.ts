import type { Run, RunStop } from "../api/runs";

/** The stop that comes after one, going round; undefined once none is left. */
export function nextStop(run: Run, after: number): RunStop | undefined {
  const place = run.stops.findIndex((one) => one.number === after);
  const round = [...run.stops.slice(place + 1), ...run.stops.slice(0, Math.max(0, place))];
  return round.find((one) => one.ruled === null && !one.gone);
}

/** The Bench at a stop; the end of the run without one. */
export const addressOf = (run: number, stop: RunStop | undefined): string =>
  stop
    ? `/pictures/${stop.picture}?region=${stop.region}&attempt=${stop.attempt}&run=${run}`
    : `/runs/${run}`;

/** How sure the likely ruling is, and what that rests on. */
export function offeredWords(offered: NonNullable<RunStop["offered"]>): string {
  const chance = offered.ruling === "passes" ? offered.chance : 1 - offered.chance;
  const passed = offered.ruling === "passes" ? offered.passed : offered.of - offered.passed;
  const alike = offered.of
    ? `${passed} of ${offered.of} alike were ruled so`
    : "nobody ruled on the like of it yet";
  return `likely: ${offered.ruling}, ${Math.round(chance * 100)} %; ${alike}`;
}

/** How far a run is. */
export const farWords = (run: Run): string => {
  const gone = run.stops.filter((one) => one.gone).length;
  const ruled = run.stops.filter((one) => one.ruled !== null).length;
  return `${ruled} of ${run.stops.length} ruled${gone ? `, ${gone} decided elsewhere` : ""}`;
};
