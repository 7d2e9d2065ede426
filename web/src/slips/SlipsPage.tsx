import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import type { Slip } from "../api/client";
import { sessionQuery } from "../api/queries";
import {
  olderShotSlips,
  SHOT_SLIPS_A_PAGE,
  shotSlipsQuery,
  type ListedShotSlip,
} from "../api/shots";
import { olderSlips, SLIPS_A_PAGE, slipsQuery } from "../api/slips";
import { Notice } from "../ui/Notice";
import { OutcomeShape } from "../ui/outcome";
import { GiveAny } from "./Answer";
import { Small } from "../ui/Small";
import { SendSeveral, Waiting } from "./Several";
import { late, OUT, stateWords } from "../ui/slipWords";
import { counted, day, moment, until, usualWords } from "../ui/words";
import { ShotRow } from "./ShotRow";
import { byDue, retouchers, shelves } from "./shelves";

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

/** A list that is had page by page: what is newest, and what was asked for beyond that. */
function useOlder<T extends { id: number }>(
  newest: readonly T[] | undefined,
  page: number,
  fetch: (before: number) => Promise<T[]>,
) {
  const [older, setOlder] = useState<T[]>([]);
  const [ended, setEnded] = useState(false);
  const asking = useMutation({
    mutationFn: fetch,
    onSuccess: (found) => {
      setOlder((old) => [...old, ...found]);
      setEnded(found.length < page);
    },
  });
  const known = new Set(newest?.map((one) => one.id));
  const all = [...(newest ?? []), ...older.filter((one) => !known.has(one.id))];
  const last = all.at(-1);
  return {
    all,
    more: !ended && newest?.length === page && last ? () => asking.mutate(last.id) : null,
    busy: asking.isPending,
    error: asking.error,
  };
}

/** What is out, what is back, is it fixed? */
export function SlipsPage() {
  const slips = useQuery(slipsQuery);
  const ofShots = useQuery(shotSlipsQuery);
  const pictures = useOlder(slips.data, SLIPS_A_PAGE, olderSlips);
  const shots = useOlder(ofShots.data, SHOT_SLIPS_A_PAGE, olderShotSlips);
  const session = useQuery(sessionQuery);
  if (slips.isPending || ofShots.isPending)
    return <Notice title="Looking through the slips …" busy />;
  const failed = [slips, ofShots].find((one) => !one.data);
  if (failed)
    return (
      <Notice title="The slips cannot be shown" alert>
        {failed.error?.message}
        <p>
          <button type="button" className="plain" onClick={() => void failed.refetch()}>
            try again
          </button>
        </p>
      </Notice>
    );
  const retoucher = session.data?.role === "retoucher";
  const among = (states: string[]) =>
    [...pictures.all, ...shots.all].filter((one) => states.includes(one.state)).length;
  const out = among(["sent", "working"]),
    nothing = pictures.all.length + shots.all.length === 0;
  const older = [pictures, shots].find((one) => one.more);
  return (
    <main className="mx-auto max-w-[1080px] px-6 py-4">
      <div className="mb-3 flex items-baseline justify-between">
        <h1 className="text-xl">Slips</h1>
        <p className="m-0" role="status">
          {retoucher
            ? `${counted(out, "slip")} for you.`
            : `${counted(out, "slip")} out, ${among(["rechecked"])} back.`}
        </p>
      </div>
      {retoucher && pictures.all.some((one) => OUT.includes(one.state)) && <GiveAny />}
      {!retoucher && <Waiting />}
      {nothing ? (
        <Notice inside title={retoucher ? "No slips for you" : "No slips yet"}>
          {retoucher
            ? "A slip appears here when a supervisor sends one to you."
            : "On the Bench, rule a region rework or rebuild, then write a slip from there."}
        </Notice>
      ) : (
        <Shelves
          retoucher={retoucher}
          name={session.data?.name}
          pictures={pictures.all}
          shots={shots.all}
        />
      )}
      {older?.more && (
        <p className="m-0">
          <button type="button" className="plain" disabled={older.busy} onClick={older.more}>
            older slips
          </button>{" "}
          {older.error && <strong role="alert">{older.error.message}</strong>}
        </p>
      )}
    </main>
  );
}

type Listed = { due: string | null; id: number } & (
  { picture: Slip; shot: null } | { picture: null; shot: ListedShotSlip }
);

function Shelves({
  retoucher,
  name,
  pictures,
  shots,
}: {
  retoucher: boolean;
  name: string | null | undefined;
  pictures: readonly Slip[];
  shots: readonly ListedShotSlip[];
}) {
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const tick = (id: number) => (on: boolean) =>
    setChosen((old) => new Set(on ? [...old, id] : [...old].filter((one) => one !== id)));
  const all: Listed[] = [
    ...pictures.map((one) => ({ due: one.due, id: one.id, picture: one, shot: null })),
    ...shots.map((one) => ({ due: one.due, id: one.id, picture: null, shot: one })),
  ];
  return (retoucher ? retouchers : shelves).map(({ title, states, empty }) => {
    const here = all.filter((one) => states.includes((one.picture ?? one.shot).state));
    if (title === "Out" || title === "With you") here.sort(byDue);
    if (here.length === 0 && !empty) return null;
    // One that goes outside is sent by itself: what leaves is seen first.
    const together = here.flatMap(({ picture }) =>
      picture?.state === "written" && !picture.tier ? [picture] : [],
    );
    const choosable = together.length > 1 && !retoucher;
    return (
      <section key={title} className="mb-5" aria-label={title}>
        <h2 className="text-[1rem]">{title}</h2>
        {choosable && <SendSeveral slips={together} chosen={chosen} onChoose={setChosen} />}
        {here.length === 0 ? (
          <p className="m-0">{empty}</p>
        ) : (
          <ul className="m-0 list-none p-0">
            {here.map(({ picture, shot }) =>
              shot ? (
                <ShotRow key={`shot ${shot.id}`} slip={shot} />
              ) : (
                <Row
                  key={picture.id}
                  slip={picture}
                  own={picture.worker.name === name}
                  ticked={chosen.has(picture.id)}
                  onTick={choosable && together.includes(picture) ? tick(picture.id) : null}
                />
              ),
            )}
          </ul>
        )}
      </section>
    );
  });
}
