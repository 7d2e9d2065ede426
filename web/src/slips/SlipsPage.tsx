import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import type { Slip } from "../api/client";
import { sessionQuery } from "../api/queries";
import { olderSlips, SLIPS_A_PAGE, slipsQuery } from "../api/slips";
import { Notice } from "../ui/Notice";
import { OutcomeShape } from "../ui/outcome";
import { GiveAny } from "./Answer";
import { Small } from "../ui/Small";
import { SendSeveral, Waiting } from "./Several";
import { counted, day, moment, until, usualWords } from "../ui/words";

export const stateWords: Record<string, string> = {
  written: "written, not sent yet",
  sent: "sent",
  working: "being worked",
  returned: "came back, being looked at",
  rechecked: "came back",
  failed: "could not be worked",
  question: "asks a question",
  declined: "declined",
  settled: "settled",
  withdrawn: "withdrawn",
};

/** In the order in which they want somebody's attention. */
export const shelves: { title: string; states: string[]; empty: string }[] = [
  { title: "Wants an answer", states: ["question", "declined"], empty: "" },
  { title: "Came back", states: ["rechecked", "returned"], empty: "Nothing came back yet." },
  { title: "Not sent yet", states: ["written", "failed"], empty: "" },
  { title: "Out", states: ["sent", "working"], empty: "Nothing is out." },
  { title: "Settled", states: ["settled"], empty: "" },
  { title: "Withdrawn", states: ["withdrawn"], empty: "" },
];

/** A retoucher's own: what is with them comes first, by the day it is due. */
const retouchers = [
  { title: "With you", states: ["sent", "working", "question"], empty: "Nothing is with you." },
  { title: "Handed in", states: ["returned", "rechecked"], empty: "" },
  { title: "Settled", states: ["settled"], empty: "" },
  { title: "Declined", states: ["declined"], empty: "" },
];

const OUT = ["written", "sent", "working", "question"];
/** Whether a day is over. */
export const late = (due: string, now = new Date()) =>
  new Date(`${due}T23:59:59`).getTime() < now.getTime();

/** What is due first comes first; what has no day comes last, the newest first. */
export const byDue = (one: Slip, other: Slip) =>
  (one.due ?? "9999").localeCompare(other.due ?? "9999") || other.id - one.id;

function Row({
  slip,
  own,
  ticked,
  onTick,
}: {
  slip: Slip;
  own: boolean;
  ticked: boolean;
  /** Null where it cannot be chosen to be sent with others. */
  onTick: ((ticked: boolean) => void) | null;
}) {
  return (
    <li className={`rule-top ${onTick ? "grid grid-cols-[20px_1fr] items-center gap-2" : ""}`}>
      {onTick && (
        <input
          type="checkbox"
          aria-label={`slip ${slip.round} of ${slip.picture_name}`}
          checked={ticked}
          onChange={(event) => onTick(event.target.checked)}
        />
      )}
      <Link
        to={`/slips/${slip.id}`}
        className="grid grid-cols-[92px_1fr_250px_300px] items-center gap-4 py-2 text-inherit no-underline hover:bg-[var(--lift)]"
      >
        <Small
          src={slip.regions[0]?.after ?? slip.regions[0]?.before ?? ""}
          className="h-[62px] w-[92px]"
        />
        <span>
          <span className="block text-lg">
            {String(slip.picture_number).padStart(2, "0")} {slip.picture_name}, slip {slip.round}
          </span>
          <span className="block">
            {slip.job}, {until(slip.deadline)};{" "}
            {slip.regions.map((region) => region.name).join(", ")} of attempt {slip.attempt_number}
          </span>
        </span>
        <span>
          {stateWords[slip.state]}
          {slip.state === "sent" || slip.state === "working"
            ? `: ${own ? "yours" : slip.worker.name}`
            : ""}
          {slip.usual && OUT.includes(slip.state) && (
            <span className="block small">{usualWords(slip.usual)}</span>
          )}
          {slip.late && <strong className="block">will hardly be back in time</strong>}
          {slip.due && OUT.includes(slip.state) && (
            <strong className="block">
              due {day(slip.due)}
              {late(slip.due) ? ", overdue" : ""}
            </strong>
          )}
          <span className="block small">
            {slip.returned_at
              ? moment(slip.returned_at)
              : slip.sent_at
                ? moment(slip.sent_at)
                : moment(slip.written_at)}
          </span>
          {slip.progress !== null && (
            <progress
              className="block h-2 w-full"
              max={1}
              value={slip.progress}
              aria-label={`slip ${slip.round} of ${slip.picture_name}`}
              style={{ accentColor: "#000" }}
            />
          )}
          {(slip.state === "failed" || slip.state === "declined") && (
            <strong className="block">{slip.reason}</strong>
          )}
        </span>
        <span>
          {slip.regions.map(
            (region) =>
              region.outcome && (
                <span key={region.region} className="flex items-center gap-2">
                  <OutcomeShape word={region.outcome} /> {region.name}: {region.outcome}
                  {region.new.length > 0 && region.outcome !== "new flaw"
                    ? `, new: ${region.new.join(", ")}`
                    : ""}
                </span>
              ),
          )}
          {slip.elsewhere && !slip.elsewhere.same && slip.elsewhere.compared > 0 && (
            <strong className="block">something outside what was sent was changed</strong>
          )}
          {slip.locks.some((lock) => !lock.same) && (
            <strong className="block">
              region{" "}
              {slip.locks
                .filter((lock) => !lock.same)
                .map((lock) => lock.number)
                .join(", ")}{" "}
              was touched though not sent
            </strong>
          )}
        </span>
      </Link>
    </li>
  );
}

/** What is out, what is back, is it fixed? */
export function SlipsPage() {
  const slips = useQuery(slipsQuery);
  const [older, setOlder] = useState<Slip[]>([]);
  const [more, setMore] = useState(true);
  const fetchOlder = useMutation({
    mutationFn: olderSlips,
    onSuccess: (found) => {
      setOlder((old) => [...old, ...found]);
      setMore(found.length === SLIPS_A_PAGE);
    },
  });
  const session = useQuery(sessionQuery);
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const tick = (id: number) => (on: boolean) =>
    setChosen((old) => new Set(on ? [...old, id] : [...old].filter((one) => one !== id)));
  if (slips.isPending) return <Notice title="Looking through the slips …" busy />;
  if (!slips.data)
    return (
      <Notice title="The slips cannot be shown" alert>
        {slips.error?.message}
        <p>
          <button type="button" className="plain" onClick={() => void slips.refetch()}>
            try again
          </button>
        </p>
      </Notice>
    );
  const newest = new Set(slips.data.map((one) => one.id));
  const all = [...slips.data, ...older.filter((one) => !newest.has(one.id))];
  const last = all.at(-1);
  const retoucher = session.data?.role === "retoucher";
  const back = slips.data.filter((slip) => slip.state === "rechecked").length,
    out = slips.data.filter((slip) => ["sent", "working"].includes(slip.state)).length;
  return (
    <main className="mx-auto max-w-[1080px] px-6 py-4">
      <div className="mb-3 flex items-baseline justify-between">
        <h1 className="text-xl">Slips</h1>
        <p className="m-0" role="status">
          {retoucher
            ? `${counted(out, "slip")} for you.`
            : `${counted(out, "slip")} out, ${back} back.`}
        </p>
      </div>
      {retoucher && out > 0 && <GiveAny />}
      {!retoucher && <Waiting />}
      {slips.data.length === 0 ? (
        <Notice inside title={retoucher ? "No slips for you" : "No slips yet"}>
          {retoucher
            ? "A slip appears here when a supervisor sends one to you."
            : "On the Bench, rule a region rework or rebuild, then write a slip from there."}
        </Notice>
      ) : (
        (retoucher ? retouchers : shelves).map(({ title, states, empty }) => {
          const here = all.filter((slip) => states.includes(slip.state));
          if (title === "Out" || title === "With you") here.sort(byDue);
          if (here.length === 0 && !empty) return null;
          // One that goes outside is sent by itself: what leaves is seen first.
          const together = here.filter((one) => one.state === "written" && !one.tier);
          return (
            <section key={title} className="mb-5" aria-label={title}>
              <h2 className="text-[1rem]">{title}</h2>
              {together.length > 1 && !retoucher && (
                <SendSeveral slips={together} chosen={chosen} onChoose={setChosen} />
              )}
              {here.length === 0 ? (
                <p className="m-0">{empty}</p>
              ) : (
                <ul className="m-0 list-none p-0">
                  {here.map((slip) => (
                    <Row
                      key={slip.id}
                      slip={slip}
                      own={slip.worker.name === session.data?.name}
                      ticked={chosen.has(slip.id)}
                      onTick={
                        !retoucher && together.length > 1 && together.includes(slip)
                          ? tick(slip.id)
                          : null
                      }
                    />
                  ))}
                </ul>
              )}
            </section>
          );
        })
      )}
      {more && last && slips.data.length === SLIPS_A_PAGE && (
        <p className="m-0">
          <button
            type="button"
            className="plain"
            disabled={fetchOlder.isPending}
            onClick={() => fetchOlder.mutate(last.id)}
          >
            older slips
          </button>{" "}
          {fetchOlder.isError && <strong role="alert">{fetchOlder.error.message}</strong>}
        </p>
      )}
    </main>
  );
}
