import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import {
  shotsQuery,
  useShotSlips,
  type Shot,
  type ShotAttempt,
  type ShotRegion,
  type ShotSlip,
} from "../api/shots";
import { Trouble } from "../ui/Trouble";
import { counted } from "../ui/words";
import { called, type Range } from "./clock";
import { framesIn, rangesWords } from "./ranges";

const CARRIED = "repaired frames carried";

/** Sending frames of a region back, having them mended, and what became of it. */
export function ShotSlips({
  shot,
  attempt,
  region,
  range,
  onFrame,
  onAttempt,
}: {
  shot: Shot;
  attempt: ShotAttempt;
  region: ShotRegion;
  range: Range;
  onFrame: (frame: number) => void;
  onAttempt: (id: number) => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <section className="rule-top mt-2 py-2" aria-label="Worked again">
      <h2 className="text-[1.0625rem]">Worked again</h2>
      {shot.slips.length === 0 && !open && (
        <p className="m-0 small">No frames of this shot were sent back or mended yet.</p>
      )}
      {shot.rules &&
        (open ? (
          <Ask
            // What is asked for follows what is looked at.
            key={`${attempt.id} ${region.id}`}
            shot={shot}
            attempt={attempt}
            region={region}
            range={range}
            onClose={() => setOpen(false)}
          />
        ) : (
          <button type="button" className="plain" onClick={() => setOpen(true)}>
            send back or mend
          </button>
        ))}
      <ol className="m-0 mt-1 list-none p-0" aria-label="Slips">
        {shot.slips.map((slip) => (
          <Slip key={slip.id} shot={shot} slip={slip} onFrame={onFrame} onAttempt={onAttempt} />
        ))}
      </ol>
    </section>
  );
}

function Ask({
  shot,
  attempt,
  region,
  range,
  onClose,
}: {
  shot: Shot;
  attempt: ShotAttempt;
  region: ShotRegion;
  range: Range;
  onClose: () => void;
}) {
  const { send } = useShotSlips(shot.id);
  const { frames, first } = shot.original;
  const failed = (attempt.cells.find((one) => one.region === region.id)?.stands ?? [])
    .filter((one) => one.ruling === "rework")
    .map((one) => ({ first: one.first, last: one.last }));
  const ranges = failed.length > 0 ? failed : [range];
  const [to, setTo] = useState(`method ${shot.methods[0]?.name ?? ""}`);
  const [from, setFrom] = useState(attempt.id);
  const repairs = attempt.check?.regions.find((one) => one.region === region.number)?.repairs ?? [];
  const [listed, setListed] = useState(repairs.map((one) => called(one.frame, first)).join(", "));
  const [note, setNote] = useState("");
  const [due, setDue] = useState("");
  const method = to.startsWith("method ") ? to.slice(7) : "";
  const worker = to.startsWith("worker ") ? Number(to.slice(7)) : null;
  const repaired = framesIn(listed, first);
  const lacking = method === CARRIED && (repaired === null || repaired.length === 0);
  const what = shot.methods.find((one) => one.name === method)?.what;
  return (
    <form
      aria-label="Send back or mend"
      className="flex flex-col gap-1"
      onSubmit={(event) => {
        event.preventDefault();
        if (lacking || send.isPending) return;
        send.mutate(
          {
            attempt: attempt.id,
            parts: [{ region: region.id, ranges }],
            worker,
            method,
            repaired: method === CARRIED && repaired ? { attempt: from, frames: repaired } : null,
            note,
            due: due || null,
          },
          { onSuccess: onClose },
        );
      }}
    >
      <p className="m-0">
        {region.name || `Region ${region.number}`} of attempt {attempt.number},{" "}
        {rangesWords(ranges, frames, first)}
        {failed.length > 0 ? ", which failed" : ""}
      </p>
      <label>
        worked by{" "}
        <select className="field" value={to} onChange={(event) => setTo(event.target.value)}>
          {shot.methods.map((one) => (
            <option key={one.name} value={`method ${one.name}`}>
              {one.name}
            </option>
          ))}
          {failed.length > 0 &&
            shot.workers.map((one) => (
              <option key={one.id} value={`worker ${one.id}`}>
                {one.name}
              </option>
            ))}
        </select>
      </label>
      {what && <p className="m-0 small">{what.replace(/^./, (one) => one.toUpperCase())}.</p>}
      {failed.length === 0 && shot.workers.length > 0 && (
        <p className="m-0 small">People are sent what was ruled rework.</p>
      )}
      {method === CARRIED && (
        <>
          <label>
            frames that were repaired{" "}
            <input
              className="field w-[110px]"
              value={listed}
              aria-invalid={lacking}
              onChange={(event) => setListed(event.target.value)}
            />
          </label>
          <label>
            in{" "}
            <select
              className="field"
              value={from}
              onChange={(event) => setFrom(Number(event.target.value))}
            >
              {shot.attempts.map((one) => (
                <option key={one.id} value={one.id}>
                  attempt {one.number}, {one.method}
                </option>
              ))}
            </select>
          </label>
          {lacking && <p className="m-0 small">Numbers of frames, with commas between them.</p>}
        </>
      )}
      {worker !== null && (
        <label>
          due{" "}
          <input
            type="date"
            className="field"
            value={due}
            onChange={(event) => setDue(event.target.value)}
          />
        </label>
      )}
      <input
        className="field"
        aria-label="words on the slip"
        placeholder="words, if any"
        maxLength={2000}
        value={note}
        onChange={(event) => setNote(event.target.value)}
      />
      <span className="flex gap-2">
        <button type="submit" className="plain" aria-disabled={lacking || send.isPending}>
          {worker === null ? "mend these frames" : "send back"}
        </button>
        <button type="button" className="quiet" onClick={onClose}>
          leave it
        </button>
      </span>
      <Trouble error={send.error} />
    </form>
  );
}

function Slip({
  shot,
  slip,
  onFrame,
  onAttempt,
}: {
  shot: Shot;
  slip: ShotSlip;
  onFrame: (frame: number) => void;
  onAttempt: (id: number) => void;
}) {
  const { frames, first } = shot.original;
  const out = isOut(slip);
  return (
    <li className="rule-top py-1">
      <p className="m-0">
        Slip {slip.round}, {slip.recipient}: <strong>{slip.state}</strong>
        {slip.due && out ? `, due ${slip.due}` : ""}
      </p>
      {slip.parts.map((part) => (
        <p key={part.region} className="m-0 small">
          region {part.number}, {rangesWords(part.ranges, frames, first)}
          {slip.attempt === null ? " of the original" : ` of attempt ${slip.attempt}`}
          {part.word && (
            <>
              : <strong>{part.word}</strong>
              {part.kinds.length > 0 &&
                ` (${part.kinds.map(([kind, word]) => `${kind}: ${word}`).join("; ")})`}
            </>
          )}
        </p>
      ))}
      {slip.repaired && (
        <p className="m-0 small">
          repaired in attempt {slip.repaired.number}: frame{" "}
          {slip.repaired.frames.map((one) => called(one, first)).join(", ")}
        </p>
      )}
      {slip.note && <p className="m-0 small">“{slip.note}”</p>}
      {slip.by_method && out && (
        <p role="status" className="m-0 small">
          <progress max={1} value={slip.progress} className="mr-2 h-[6px] w-[90px]" />
          {slip.words || "waits"}
        </p>
      )}
      {slip.reason && (
        <p role="alert" className="m-0 small">
          <strong>{slip.reason}</strong>
        </p>
      )}
      {slip.rest && <Rest shot={shot} rest={slip.rest} onFrame={onFrame} />}
      <Acts shot={shot} slip={slip} onAttempt={onAttempt} />
    </li>
  );
}

const isOut = (slip: ShotSlip) => slip.state === "sent" || slip.state === "working";

/** What can be done with a slip as it stands. */
function Acts({
  shot,
  slip,
  onAttempt,
}: {
  shot: Shot;
  slip: ShotSlip;
  onAttempt: (id: number) => void;
}) {
  const { step } = useShotSlips(shot.id);
  const out = isOut(slip);
  const answer = shot.attempts.find((one) => one.number === slip.returned);
  const unexamined = slip.state === "returned" && answer?.check?.state === "failed";
  const event = (what: "withdrawn" | "sent" | "settled", words: string) => (
    <button
      type="button"
      className="quiet"
      aria-disabled={step.isPending}
      onClick={() => step.mutate({ slip: slip.id, event: what })}
    >
      {words}
    </button>
  );
  return (
    <>
      {slip.state === "returned" && (
        <p role={unexamined ? "alert" : "status"} className="m-0 small">
          {unexamined
            ? "The answer could not be examined: examine it again from its attempt, or settle the slip."
            : "The answer is being examined and compared with what was sent."}
        </p>
      )}
      <span className="flex flex-wrap gap-2">
        {answer && (
          <button type="button" className="plain" onClick={() => onAttempt(answer.id)}>
            look at attempt {answer.number}
          </button>
        )}
        {shot.rules && (out || slip.state === "failed") && event("withdrawn", "withdraw it")}
        {shot.rules && slip.state === "failed" && event("sent", "try it again")}
        {shot.rules && unexamined && event("settled", "settle it unexamined")}
      </span>
      {shot.rules && out && !slip.by_method && <HandIn shot={shot} slip={slip} />}
      <Trouble error={step.error} />
    </>
  );
}

/** What the answer did to what was not sent. */
function Rest({
  shot,
  rest,
  onFrame,
}: {
  shot: Shot;
  rest: NonNullable<ShotSlip["rest"]>;
  onFrame: (frame: number) => void;
}) {
  const { frames, first } = shot.original;
  const about = `beyond ${rest.margin} pixels about what was sent`;
  if (rest.differing.length === 0)
    return (
      <p className="m-0 small">
        {rest.recoded.length === 0
          ? `The rest is the same to the bit, ${about}: ${counted(rest.frames, "frame")} compared.`
          : `The rest is the same but for being saved anew, ${about}: ${counted(rest.frames, "frame")} compared.`}
      </p>
    );
  return (
    <p className="m-0 small" role="alert">
      <strong>What was not sent was changed</strong>, {about}:{" "}
      {rangesWords(rest.differing, frames, first)}.{" "}
      {rest.places[0] && (
        <button type="button" className="plain" onClick={() => onFrame(rest.places[0]?.frame ?? 0)}>
          most in frame {called(rest.places[0].frame, first)}
        </button>
      )}
    </p>
  );
}

/** Footage that was brought in becomes what answers a slip. */
function HandIn({ shot, slip }: { shot: Shot; slip: ShotSlip }) {
  const { answer } = useShotSlips(shot.id);
  const found = useQuery(shotsQuery(shot.job));
  const choices = (found.data?.waiting ?? []).filter(
    (one) => one.state === "ready" && one.holds === "frames",
  );
  const [given, setGiven] = useState<number | null>(null);
  const footage = given ?? choices[0]?.id ?? null;
  if (footage === null)
    return (
      <p className="m-0 small">
        Once it is back: bring the footage in on the job’s page of shots, then hand it in here.
      </p>
    );
  return (
    <form
      className="flex flex-wrap items-center gap-1"
      aria-label={`Hand in for slip ${slip.round}`}
      onSubmit={(event) => {
        event.preventDefault();
        answer.mutate({ slip: slip.id, footage });
      }}
    >
      <select
        className="field"
        aria-label="footage"
        value={footage}
        onChange={(event) => setGiven(Number(event.target.value))}
      >
        {choices.map((one) => (
          <option key={one.id} value={one.id}>
            {one.name}
          </option>
        ))}
      </select>
      <button type="submit" className="plain" aria-disabled={answer.isPending}>
        hand it in
      </button>
      <Trouble error={answer.error} />
    </form>
  );
}
