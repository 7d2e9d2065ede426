import { useState } from "react";
import {
  useShotSlips,
  type Shot,
  type ShotAttempt,
  type ShotRegion,
  type ShotSlip,
} from "../api/shots";
import { Trouble } from "../ui/Trouble";
import { called, type Range } from "./clock";
import { framesIn, rangesWords } from "./ranges";
import { ShotSlipItem } from "./ShotSlipItem";

const CARRIED = "repaired frames carried";

/** Sending frames of a region back, having them mended, and what became of it. */
export function ShotSlips({
  shot,
  attempt,
  region,
  range,
  onFrame,
  onAttempt,
  onShow,
}: {
  shot: Shot;
  attempt: ShotAttempt;
  region: ShotRegion;
  range: Range;
  onFrame: (frame: number) => void;
  onAttempt: (id: number) => void;
  onShow: (slip: ShotSlip, part: number) => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <section className="rule-top mt-2 py-2" aria-label="Worked again">
      <h2 className="text-[1.0625rem]">Worked again</h2>
      {shot.slips.length === 0 && !open && (
        <p className="m-0 small">
          {shot.rules
            ? "No frames of this shot were sent back or mended yet."
            : "No frames of this shot are with you."}
        </p>
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
          <ShotSlipItem
            key={slip.id}
            shot={shot}
            slip={slip}
            onFrame={onFrame}
            onAttempt={onAttempt}
            onShow={onShow}
          />
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
