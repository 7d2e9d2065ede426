import { Link } from "react-router";
import type {
  Shot,
  ShotAttempt,
  ShotCell,
  ShotChecked,
  ShotFinding,
  ShotRegion,
} from "../api/shots";
import { Key } from "../ui/Key";
import { KindPicture, SeverityStrokes, StateShape } from "../ui/marks";
import { Trouble } from "../ui/Trouble";
import { counted, moment, number } from "../ui/words";
import { called, rangeWords } from "./clock";
import { rowsOf, type Row } from "./strip";

const ofRegion = (region: ShotRegion) => region.name || `region ${region.number}`;

/** The ledger of a shot: regions down, attempts across. */
export function ShotLedger({
  shot,
  attempt,
  region,
  open,
  onChoose,
}: {
  shot: Shot;
  attempt: number;
  region: number | null;
  open: boolean;
  onChoose: (attempt: number, region: number | null) => void;
}) {
  if (shot.attempts.length === 0) return null;
  return (
    <div className="mb-2 overflow-x-auto">
      <table className="border-collapse" aria-label="Regions and attempts">
        <thead>
          <tr>
            <td />
            {shot.attempts.map((one) => (
              <th key={one.id} scope="col" className="px-1 font-normal">
                <button
                  type="button"
                  className="quiet"
                  aria-pressed={one.id === attempt}
                  title={one.method}
                  onClick={() => onChoose(one.id, region)}
                >
                  {one.number}
                </button>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {shot.regions.map((row) => (
            <tr key={row.id}>
              <th scope="row" className="whitespace-nowrap pr-3 text-left font-normal">
                {ofRegion(row)}
              </th>
              {shot.attempts.map((one) => {
                const cell = one.cells.find((two) => two.region === row.id);
                const found = one.check?.regions.find((two) => two.region === row.number);
                const failed = one.check?.state === "failed";
                const busy = one.check !== null && one.check.state !== "done" && !failed;
                const state = cell?.state ?? "undecided";
                const shape =
                  state !== "undecided" ? state : failed ? "failed" : busy ? "checking" : state;
                const chosen = one.id === attempt && row.id === region;
                return (
                  <td key={one.id} className="p-0">
                    <button
                      type="button"
                      aria-label={`${ofRegion(row)}, attempt ${one.number}: ${shape}`}
                      aria-pressed={chosen}
                      className="flex h-[30px] items-center gap-1 border bg-transparent px-2"
                      style={{
                        borderColor: chosen ? "var(--ink)" : "var(--line)",
                        boxShadow: chosen ? "inset 0 0 0 1px var(--ink)" : undefined,
                      }}
                      onClick={() => onChoose(one.id, row.id)}
                    >
                      <StateShape state={shape} />
                      {open && found && <SeverityStrokes word={found.findings[0]?.word ?? null} />}
                    </button>
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** One attempt in words, and what was found in it. */
export function ShotFound({
  shot,
  attempt,
  region,
  open,
  chosen,
  onOpen,
  onChoose,
  onFrame,
  onCheck,
}: {
  shot: Shot;
  attempt: ShotAttempt;
  region: ShotRegion | null;
  open: boolean;
  chosen: string | null;
  onOpen: () => void;
  onChoose: (row: Row) => void;
  onFrame: (frame: number) => void;
  onCheck: () => void;
}) {
  const { check } = attempt;
  const rows = rowsOf(attempt, shot.regions).filter((row) => row.region === region?.number);
  const checked = check?.regions.find((one) => one.region === region?.number);
  return (
    <section aria-label="What was found">
      <h2 className="text-[1.0625rem]">
        {region ? `${ofRegion(region)} in ` : ""}attempt {attempt.number}
      </h2>
      <p className="m-0 small">
        {attempt.method}
        {attempt.maker ? `, ${attempt.maker}` : ""}; {attempt.footage.facts}
      </p>
      {check?.said.map((words) => (
        <p key={words} className="m-0 small">
          <strong>{words}</strong>
        </p>
      ))}
      {check && (check.state === "waiting" || check.state === "running") && (
        <p role="status" className="m-0">
          <progress max={1} value={check.progress} className="mr-2 h-[6px] w-[90px]" />
          {check.state === "waiting" ? "waits to be examined" : check.words || "is being examined"}
        </p>
      )}
      {check?.state === "failed" && (
        <p role="alert" className="m-0">
          <strong>It could not be examined: {check.reason}</strong>{" "}
          <button type="button" className="plain" onClick={onCheck}>
            examine it again
          </button>
        </p>
      )}
      {check?.state === "done" && check.reason && (
        <p role="alert" className="m-0">
          <strong>It cannot be laid over the original: {check.reason}</strong>
        </p>
      )}
      {check?.state === "done" && checked && !open && (
        <p className="m-0 my-1">
          What was found is shown once you have seen the shot through.{" "}
          <button type="button" className="plain" onClick={onOpen}>
            show it now
          </button>
        </p>
      )}
      {open && checked && (
        <>
          {checked.moves && <p className="m-0 small">What was removed moves over the ground.</p>}
          {rows.length === 0 ? (
            <p className="m-0">Nothing to report over time, nor in the key frames.</p>
          ) : (
            <ul className="m-0 list-none p-0">
              {rows.map((row) => (
                <Found
                  key={row.key}
                  finding={row.finding}
                  first={shot.original.first}
                  chosen={row.key === chosen}
                  onChoose={() => onChoose(row)}
                />
              ))}
            </ul>
          )}
          {rows.length > 0 && (
            <RepairFirst shot={shot} repairs={checked.repairs} onFrame={onFrame} />
          )}
          {Object.entries(checked.abstained).map(([kind, reason]) => (
            <p key={kind} className="m-0 flex gap-2 small">
              <KindPicture kind={kind} />
              {kind}: cannot tell, {reason}
            </p>
          ))}
        </>
      )}
    </section>
  );
}

/** Which frames to repair by hand, for the rest to be mended by them. */
function RepairFirst({
  shot,
  repairs,
  onFrame,
}: {
  shot: Shot;
  repairs: ShotChecked["repairs"];
  onFrame: (frame: number) => void;
}) {
  const last = repairs[repairs.length - 1];
  if (!last) return null;
  return (
    <p className="rule-top m-0 py-1 small">
      To repair by hand, begin with{" "}
      {repairs.map((one, at) => (
        <span key={one.frame}>
          {at > 0 && ", then "}
          <button type="button" className="plain" onClick={() => onFrame(one.frame)}>
            frame {called(one.frame, shot.original.first)}
          </button>
        </span>
      ))}
      : carried by the ground, {repairs.length === 1 ? "it mends" : "they mend"} {last.mends} of{" "}
      {shot.original.frames} frames.
    </p>
  );
}

function Found({
  finding,
  first,
  chosen,
  onChoose,
}: {
  finding: ShotFinding;
  first: number;
  chosen: boolean;
  onChoose: () => void;
}) {
  const { natural } = finding;
  return (
    <li className="rule-top py-1">
      <button
        type="button"
        aria-pressed={chosen}
        onClick={onChoose}
        className="flex w-full items-center gap-2 border-0 bg-transparent p-0 text-left"
      >
        <KindPicture kind={finding.kind} />
        <span className="flex-1" style={{ fontWeight: chosen ? 640 : undefined }}>
          {finding.kind}, {finding.word}
        </span>
        <SeverityStrokes word={finding.word} />
      </button>
      <p className="m-0 pl-[26px] small">
        {finding.first === finding.last
          ? `frame ${called(finding.worst, first)}`
          : `frames ${called(finding.first, first)} to ${called(finding.last, first)}, worst in ${called(finding.worst, first)}`}
      </p>
      {chosen && (
        <p className="m-0 pl-[26px] small">
          {finding.measure}: this one reads {number(finding.value)} {finding.unit}, untouched places
          of this shot {number(natural.low)} to {number(natural.high)} (
          {counted(natural.n, "place")}
          ).
        </p>
      )}
    </li>
  );
}

/** Ruling the range of one region, and what was ruled. */
export function ShotRule({
  shot,
  cell,
  range,
  words,
  busy,
  error,
  onWords,
  onRule,
}: {
  shot: Shot;
  cell: ShotCell;
  range: { first: number; last: number };
  words: string;
  busy: boolean;
  error: Error | null;
  onWords: (words: string) => void;
  onRule: (ruling: "passes" | "rework" | "taken back") => void;
}) {
  const { frames, first } = shot.original;
  return (
    <section className="rule-top mt-2 py-2" aria-label="Rule">
      <p className="m-0 mb-1">
        {rangeWords(range, frames, first).replace(/^./, (letter) => letter.toUpperCase())}:
      </p>
      {shot.rules ? (
        <>
          <div className="flex flex-wrap gap-1">
            <button
              type="button"
              className="ruling"
              aria-disabled={busy}
              onClick={() => onRule("passes")}
            >
              <StateShape state="passes" /> passes <Key action="passes" />
            </button>
            <button
              type="button"
              className="ruling"
              aria-disabled={busy}
              onClick={() => onRule("rework")}
            >
              <StateShape state="rework" /> rework <Key action="rework" />
            </button>
            {cell.stands.length > 0 && (
              <button
                type="button"
                className="quiet"
                aria-disabled={busy}
                onClick={() => onRule("taken back")}
              >
                take back <Key action="takeBack" />
              </button>
            )}
          </div>
          <input
            className="field mt-1 w-full"
            aria-label="words on the ruling"
            placeholder="words, if any"
            maxLength={2000}
            value={words}
            onChange={(event) => onWords(event.target.value)}
          />
        </>
      ) : (
        <p className="m-0 small">Only a supervisor of {shot.job_name} rules.</p>
      )}
      <Trouble error={error} />
      {cell.given.length > 0 && (
        <ol className="m-0 mt-1 list-none p-0 small" aria-label="Ruled">
          {cell.given.slice(0, 6).map((one, at) => (
            <li key={cell.given.length - at}>
              {rangeWords(one, frames, first)}: {one.ruling}
              {one.words && `, “${one.words}”`}; {one.person}, {moment(one.made_at)}
            </li>
          ))}
        </ol>
      )}
    </section>
  );
}

/** Where one came from: a supervisor from the job's shots, a retoucher from their slips. */
export const homeOf = (shot: Shot) => (shot.rules ? `/jobs/${shot.job}/shots` : "/slips");

export function ShotHead({ shot }: { shot: Shot }) {
  return (
    <div className="px-3 pt-2">
      <Link to={homeOf(shot)} className="small">
        {shot.job_name}: {shot.rules ? "shots" : "your slips"}
      </Link>
      <h1 className="text-lg">
        {String(shot.number).padStart(2, "0")} {shot.name}
      </h1>
      <p className="m-0 small">
        {counted(shot.original.frames, "frame")} of {shot.original.width} × {shot.original.height},{" "}
        {shot.original.rate} a second; judged for {shot.size}
      </p>
    </div>
  );
}
