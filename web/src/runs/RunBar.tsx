import { Link } from "react-router";
import type { Run, RunStop } from "../api/runs";
import { Key } from "../ui/Key";
import { farWords, offeredWords } from "./stops";

/** Where a run is, and what is likely here: offered, never done. */
export function RunBar({
  run,
  stop,
  ready,
  onOffered,
  onGo,
}: {
  run: Run;
  stop: RunStop | undefined;
  ready: boolean;
  onOffered: () => void;
  onGo: (stop: RunStop | undefined) => void;
}) {
  const ruled = run.stops.filter((one) => one.ruled !== null).length;
  return (
    <div
      className="rule-top flex min-h-[34px] flex-wrap items-center gap-3 px-3"
      role="group"
      aria-label="Run"
    >
      <span className="flex items-center gap-2">
        run: {farWords(run)}
        <progress
          className="h-2 w-[110px]"
          max={run.stops.length}
          value={ruled}
          aria-label="how far the run is"
          style={{ accentColor: "#000" }}
        />
      </span>
      {!stop ? (
        <span>
          This place is none of the run&rsquo;s.{" "}
          <button
            type="button"
            className="plain px-1 py-0"
            onClick={() => onGo(run.stops.find((one) => one.number === run.next))}
          >
            back to it
          </button>
        </span>
      ) : stop.ruled ? (
        <span>ruled in this run: {stop.ruled}</span>
      ) : stop.offered ? (
        <>
          <span>{offeredWords(stop.offered)}</span>
          <button
            type="button"
            className="plain"
            aria-disabled={!ready}
            onClick={() => ready && onOffered()}
          >
            as offered <Key action="offered" />
          </button>
        </>
      ) : (
        <span>asked in full: nothing is offered here</span>
      )}
      <Link to={`/runs/${run.id}`} className="quiet ml-auto text-inherit no-underline">
        end the run
      </Link>
    </div>
  );
}
