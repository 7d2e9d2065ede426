import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Slip } from "../api/client";
import { useSeveral, waitingQuery } from "../api/several";
import { Trouble } from "../ui/Trouble";
import { counted } from "../ui/words";
import { offeredToAll } from "./several";

/** So many names are said. */
const NAMED = 4;

/** Pictures of which something waits to be sent back. */
export function Waiting() {
  const waiting = useQuery(waitingQuery).data ?? [];
  const { write } = useSeveral();
  if (waiting.length === 0) return null;
  const regions = waiting.reduce((sum, one) => sum + one.regions, 0);
  const named = waiting.slice(0, NAMED).map((one) => one.name);
  return (
    <section className="mb-5" aria-label="To be sent back">
      <p className="m-0 flex flex-wrap items-baseline gap-3">
        <span>
          {counted(regions, "failed region")} in {counted(waiting.length, "picture")}{" "}
          {regions === 1 ? "waits" : "wait"} to be sent back: {named.join(", ")}
          {waiting.length > NAMED && ` and ${waiting.length - NAMED} more`}.
        </span>
        <button
          type="button"
          className="plain"
          disabled={write.isPending}
          onClick={() => write.mutate(waiting.map((one) => one.picture))}
        >
          {waiting.length === 1 ? "write its slip" : `write ${waiting.length} slips`}
        </button>
      </p>
      <Trouble error={write.error} />
    </section>
  );
}

const METHOD = "method:";

/** Sending the slips that are ticked, all to one recipient. */
export function SendSeveral({
  slips,
  chosen,
  onChoose,
}: {
  /** That were written and not sent. */
  slips: readonly Slip[];
  chosen: ReadonlySet<number>;
  onChoose: (chosen: ReadonlySet<number>) => void;
}) {
  const { send } = useSeveral();
  const [to, setTo] = useState("");
  const [due, setDue] = useState("");
  const [note, setNote] = useState("");
  const ticked = slips.filter((one) => chosen.has(one.id));
  const { workers, methods } = offeredToAll(ticked);
  const values = [
    ...workers.map((one) => String(one.id ?? "")),
    ...methods.map((one) => METHOD + one),
  ];
  const recipient = values.includes(to) ? to : values[0];
  return (
    <form
      className="flex flex-wrap items-center gap-3 py-1"
      aria-label="Send several"
      onSubmit={(event) => {
        event.preventDefault();
        if (ticked.length === 0 || recipient === undefined || send.isPending) return;
        const method = recipient.startsWith(METHOD) ? recipient.slice(METHOD.length) : "";
        send.mutate(
          {
            slips: ticked.map((one) => one.id),
            worker: !method && recipient ? Number(recipient) : null,
            method,
            due: method || !due ? null : due,
            note: note.trim() ? note : null,
          },
          { onSuccess: () => onChoose(new Set()) },
        );
      }}
    >
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          checked={ticked.length === slips.length}
          onChange={(event) =>
            onChoose(new Set(event.target.checked ? slips.map((one) => one.id) : []))
          }
        />
        all
      </label>
      {ticked.length > 0 && (
        <>
          <label className="flex items-center gap-1">
            to
            <select
              className="field"
              value={recipient ?? ""}
              onChange={(event) => setTo(event.target.value)}
            >
              <optgroup label="people">
                {workers.map((one) => (
                  <option key={one.id ?? "desk"} value={one.id ?? ""}>
                    {one.name}
                  </option>
                ))}
              </optgroup>
              <optgroup label="built-in methods">
                {methods.map((one) => (
                  <option key={one} value={METHOD + one}>
                    {one}
                  </option>
                ))}
              </optgroup>
            </select>
          </label>
          {!recipient?.startsWith(METHOD) && (
            <label className="flex items-center gap-1">
              due
              <input
                type="date"
                className="field"
                value={due}
                onChange={(event) => setDue(event.target.value)}
              />
            </label>
          )}
          <input
            className="field w-[260px]"
            aria-label="words on each"
            placeholder="words on each; empty: as written"
            maxLength={4000}
            value={note}
            onChange={(event) => setNote(event.target.value)}
          />
          <button type="submit" className="plain" aria-disabled={send.isPending}>
            send {counted(ticked.length, "slip")}
          </button>
        </>
      )}
      <Trouble error={send.error} />
    </form>
  );
}
