import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { ApiError, upload, type Change, type Slip, type SlipRegion } from "../api/client";
import { sessionQuery, slipQuery, useSeen, useSlip } from "../api/queries";
import { KindPicture, SeverityStrokes } from "../ui/marks";
import { Notice } from "../ui/Notice";
import { OutcomeShape } from "../ui/outcome";
import { counted, number } from "../ui/words";
import { BeforeAfter } from "./BeforeAfter";
import { stateWords } from "./SlipsPage";
import { Talk } from "./Talk";
import { settingsWords, withSetting } from "./changes";

export function SlipPage() {
  const { id } = useParams();
  const slip = useQuery(slipQuery(Number(id)));
  if (slip.isPending) return <Notice title="Reading the slip …" busy />;
  if (!slip.data)
    return (
      <Notice title="The slip cannot be shown" alert>
        {slip.error?.message}
        <p>
          <button type="button" className="plain" onClick={() => void slip.refetch()}>
            try again
          </button>{" "}
          <Link to="/slips">to the slips</Link>
        </p>
      </Notice>
    );
  return <Sheet key={slip.data.id} slip={slip.data} />;
}

type Draft = {
  note: string;
  worker: number | null;
  regions: Record<number, { changes: Change[]; note: string }>;
};
const draftOf = (slip: Slip): Draft => ({
  note: slip.note,
  worker: slip.worker.id,
  regions: Object.fromEntries(
    slip.regions.map((region) => [region.region, { changes: region.changes, note: region.note }]),
  ),
});

function Sheet({ slip }: { slip: Slip }) {
  const session = useQuery(sessionQuery);
  const { edit, act, stored } = useSlip(slip.id);
  const [draft, setDraft] = useState(() => draftOf(slip));
  const [trouble, setTrouble] = useState<string | null>(null);
  const open = slip.state === "written" && slip.mine;
  useSeen(slip.picture, true);
  const mine = slip.worker.id !== null && slip.worker.name === session.data?.name && !slip.mine;
  const kept = JSON.stringify(draft) === JSON.stringify(draftOf(slip));
  const body = () => ({
    note: draft.note,
    worker: draft.worker,
    regions: Object.entries(draft.regions).map(([region, one]) => ({
      region: Number(region),
      ...one,
    })),
  });
  const fail = (error: Error) => setTrouble(error.message);

  // What was typed is kept a moment after the last stroke, and before sending in any case.
  const keep = edit.mutate;
  useEffect(() => {
    if (kept || !open) return undefined;
    const timer = setTimeout(
      () => keep(body(), { onSuccess: () => setTrouble(null), onError: fail }),
      700,
    );
    return () => clearTimeout(timer);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [draft, kept, open]);

  const send = async () => {
    setTrouble(null);
    try {
      if (open && !kept) await edit.mutateAsync(body());
      await act.mutateAsync("send");
    } catch (error) {
      fail(error as Error);
    }
  };
  return (
    <main className="mx-auto max-w-[1080px] px-6 py-4">
      <div className="mb-1 flex items-baseline gap-4">
        <h1 className="text-xl">
          Slip {slip.round}: {String(slip.picture_number).padStart(2, "0")} {slip.picture_name}
        </h1>
        <span role="status">{stateWords[slip.state]}</span>
        <Link
          className="ml-auto"
          to={`/pictures/${slip.picture}?attempt=${slip.returned_number ?? slip.attempt_number}&region=${slip.regions[0]?.number ?? 1}`}
        >
          to the Bench
        </Link>
      </div>
      <p className="mt-0">
        {slip.job}; {counted(slip.regions.length, "region")} of attempt {slip.attempt_number},
        written by {slip.written_by}
        {slip.returned_number ? `; came back as attempt ${slip.returned_number}` : ""}
      </p>
      {slip.stop && (
        <p className="border p-2" style={{ borderColor: "var(--ink)" }}>
          <strong>When to stop:</strong> {slip.stop}.
        </p>
      )}
      {slip.state === "failed" && (
        <p role="alert" className="border p-2" style={{ borderColor: "var(--ink)" }}>
          It could not be worked: {slip.reason}. Nothing was lost; send it again.
        </p>
      )}
      {slip.progress !== null && (
        <progress
          className="block h-2 w-full"
          max={1}
          value={slip.progress}
          aria-label="at the desk"
          style={{ accentColor: "#000" }}
        />
      )}
      {slip.locks.length > 0 && (
        <section aria-label="What was locked" className="rule-top py-2">
          <h2 className="text-[1rem]">What was locked</h2>
          <ul className="m-0 list-none p-0">
            {slip.locks.map((lock) => (
              <li key={lock.number}>
                region {lock.number}:{" "}
                {lock.same ? (
                  `the same in all ${lock.compared.toLocaleString()} pixels${lock.saved_anew ? ", but for being saved anew as a JPEG" : ""}`
                ) : (
                  <strong>
                    touched: {counted(lock.differing, "pixel")} of {lock.compared.toLocaleString()}{" "}
                    differ
                  </strong>
                )}
              </li>
            ))}
          </ul>
        </section>
      )}
      {slip.regions.map((region) => (
        <RegionPart
          key={region.region}
          slip={slip}
          region={region}
          open={open}
          draft={draft.regions[region.region] ?? { changes: region.changes, note: region.note }}
          onChange={(one) =>
            setDraft((old) => ({ ...old, regions: { ...old.regions, [region.region]: one } }))
          }
        />
      ))}
      <Talk slip={slip} worker={mine} />
      <section className="rule-top py-3" aria-label="Note and sending">
        {open ? (
          <label className="block">
            note for the whole slip
            <textarea
              className="field mt-1 block w-full"
              rows={2}
              value={draft.note}
              onChange={(event) => setDraft((old) => ({ ...old, note: event.target.value }))}
            />
          </label>
        ) : (
          slip.note && (
            <p className="mt-0">
              <strong>Note:</strong> {slip.note}
            </p>
          )
        )}
        <div className="mt-3 flex flex-wrap items-center gap-3">
          {open && (
            <span className="flex items-center gap-1">
              <span id="slip-to">to</span>{" "}
              <select
                aria-labelledby="slip-to"
                className="field"
                value={draft.worker ?? ""}
                onChange={(event) =>
                  setDraft((old) => ({
                    ...old,
                    worker: event.target.value === "" ? null : Number(event.target.value),
                  }))
                }
              >
                {slip.workers.map((worker) => (
                  <option key={worker.id ?? "desk"} value={worker.id ?? ""}>
                    {worker.name}
                  </option>
                ))}
              </select>
            </span>
          )}
          {slip.mine && (slip.state === "written" || slip.state === "failed") && (
            <button
              type="button"
              className="plain"
              disabled={act.isPending || slip.workers.length === 0}
              onClick={() => void send()}
            >
              {slip.state === "failed" ? "send it again" : "send it back"}
            </button>
          )}
          {slip.mine &&
            ["written", "sent", "working", "question", "declined", "returned", "failed"].includes(
              slip.state,
            ) && (
              <button
                type="button"
                className="plain"
                disabled={act.isPending}
                onClick={() => act.mutate("withdraw", { onError: fail })}
              >
                withdraw it
              </button>
            )}
          {slip.state !== "withdrawn" && (
            <a
              className="plain text-inherit no-underline"
              href={`/api/slips/${slip.id}/package/`}
              download
            >
              package: pictures, masks, words
            </a>
          )}
          {mine && slip.state === "sent" && (
            <button
              type="button"
              className="plain"
              disabled={act.isPending}
              onClick={() => act.mutate("take-up", { onError: fail })}
            >
              I am at it
            </button>
          )}
          {open && (
            <span className="small">{edit.isPending ? "keeping …" : kept ? "kept" : "…"}</span>
          )}
        </div>
        {mine && (slip.state === "sent" || slip.state === "working") && (
          <Answer slip={slip} onDone={stored} />
        )}
        {trouble && (
          <p role="alert">
            <strong>{trouble}</strong>
          </p>
        )}
      </section>
    </main>
  );
}

function RegionPart({
  slip,
  region,
  open,
  draft,
  onChange,
}: {
  slip: Slip;
  region: SlipRegion;
  open: boolean;
  draft: { changes: Change[]; note: string };
  onChange: (draft: { changes: Change[]; note: string }) => void;
}) {
  const words = (what: string) => slip.changes.find((one) => one.what === what)?.words ?? what;
  const free = slip.changes.filter(
    (one) => !draft.changes.some((change) => change.what === one.what),
  );
  const set = (at: number, change: Change) =>
    onChange({
      ...draft,
      changes: draft.changes.map((one, place) => (place === at ? change : one)),
    });
  return (
    <section
      className={`rule-top grid gap-5 py-3 ${slip.returned_image ? "grid-cols-1" : "grid-cols-[250px_minmax(0,1fr)]"}`}
      aria-label={`region ${region.number}, ${region.name}`}
    >
      {slip.returned_image ? (
        <BeforeAfter slip={slip} region={region} />
      ) : (
        <figure className="m-0">
          <img
            src={region.before}
            alt={`${region.name} as it was sent back`}
            className="max-h-[220px] w-full object-contain object-left"
          />
          <figcaption className="small">attempt {slip.attempt_number}, sent back</figcaption>
        </figure>
      )}
      <div>
        <h2 className="flex items-center gap-2 text-[1rem]">
          {region.number} {region.name}: {region.ruling}
          {region.outcome && (
            <span className="ml-auto flex items-center gap-2 font-normal">
              <OutcomeShape word={region.outcome} /> <strong>{region.outcome}</strong>
            </span>
          )}
        </h2>
        <h3 className="mt-2 text-[0.9375rem]">What is wrong</h3>
        {region.flaws.length === 0 && (
          <p className="m-0">No finding was confirmed; the note says it.</p>
        )}
        <ul className="m-0 list-none p-0">
          {region.flaws.map((flaw, place) => (
            <li key={place} className="flex items-start gap-2 py-[2px]">
              <KindPicture kind={flaw.kind} />
              <span className="flex-1">
                {flaw.kind}, {flaw.word} <SeverityStrokesInline word={flaw.word} />: {flaw.group}
                <span className="block small">
                  reads {number(flaw.value)} where {number(flaw.low)} to {number(flaw.high)} is
                  natural ({flaw.unit})
                </span>
              </span>
              {flaw.outcome && (
                <span className="flex items-center gap-1 whitespace-nowrap">
                  <OutcomeShape word={flaw.outcome} /> {flaw.outcome}
                </span>
              )}
            </li>
          ))}
          {region.new.map((kind) => (
            <li key={kind} className="flex items-center gap-2 py-[2px]">
              <KindPicture kind={kind} />
              <span className="flex-1">{kind}</span>
              <span className="flex items-center gap-1">
                <OutcomeShape word="new flaw" /> new flaw
              </span>
            </li>
          ))}
        </ul>
        <h3 className="mt-2 text-[0.9375rem]">What to change</h3>
        {draft.changes.length === 0 && <p className="m-0">Nothing is suggested.</p>}
        <ul className="m-0 list-none p-0">
          {draft.changes.map((change, at) => (
            <li key={change.what} className="flex items-center gap-2 py-[2px]">
              <span className="flex-1">
                {words(change.what)}
                {!open && settingsWords(change) ? `: ${settingsWords(change)}` : ""}
                {change.why && <span className="block small">{change.why}</span>}
              </span>
              {open && (
                <Setting
                  change={change}
                  onChange={(value) => set(at, value)}
                  label={`${words(change.what)}, region ${region.number}`}
                />
              )}
              {open && (
                <button
                  type="button"
                  className="plain px-2"
                  aria-label={`leave out: ${words(change.what)}`}
                  onClick={() =>
                    onChange({
                      ...draft,
                      changes: draft.changes.filter((_, place) => place !== at),
                    })
                  }
                >
                  leave out
                </button>
              )}
            </li>
          ))}
        </ul>
        {open && free.length > 0 && (
          <label className="mt-1 block">
            also{" "}
            <select
              className="field"
              value=""
              onChange={(event) =>
                event.target.value &&
                onChange({ ...draft, changes: [...draft.changes, withSetting(event.target.value)] })
              }
            >
              <option value="">add a change …</option>
              {free.map((one) => (
                <option key={one.what} value={one.what}>
                  {one.words}
                </option>
              ))}
            </select>
          </label>
        )}
        {open ? (
          <label className="mt-2 block">
            in your own words
            <textarea
              className="field mt-1 block w-full"
              rows={2}
              value={draft.note}
              onChange={(event) => onChange({ ...draft, note: event.target.value })}
            />
          </label>
        ) : (
          region.note && (
            <p className="mb-0">
              <strong>In their own words:</strong> {region.note}
            </p>
          )
        )}
      </div>
    </section>
  );
}

function SeverityStrokesInline({ word }: { word: string }) {
  return (
    <span className="inline-block align-middle">
      <SeverityStrokes word={word} />
    </span>
  );
}

/** The one number or name that a change can carry. */
function Setting({
  change,
  onChange,
  label,
}: {
  change: Change;
  onChange: (change: Change) => void;
  label: string;
}) {
  const values = (change.values ?? {}) as Record<string, unknown>;
  if (typeof values.pixels === "number") {
    return (
      <label className="flex items-center gap-1">
        <span className="sr-only">{label}: pixels</span>
        <input
          className="field w-[72px]"
          type="number"
          min={0}
          max={500}
          value={values.pixels}
          onChange={(event) =>
            onChange({ ...change, values: { ...values, pixels: Number(event.target.value) } })
          }
        />{" "}
        px
      </label>
    );
  }
  if (typeof values.method === "string") {
    return (
      <label>
        <span className="sr-only">{label}: method</span>
        <input
          className="field w-[220px]"
          value={values.method}
          onChange={(event) =>
            onChange({ ...change, values: { ...values, method: event.target.value } })
          }
        />
      </label>
    );
  }
  return settingsWords(change) ? <span className="small">{settingsWords(change)}</span> : null;
}

function Answer({ slip, onDone }: { slip: Slip; onDone: (slip: Slip) => void }) {
  const client = useQueryClient();
  const [seconds, setSeconds] = useState("");
  const [part, setPart] = useState<number | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const stop = useRef<AbortController | null>(null);
  const give = async (file: File | undefined) => {
    if (!file) return;
    setTrouble(null);
    setPart(0);
    stop.current = new AbortController();
    try {
      onDone(
        await upload<Slip>(
          `/api/slips/${slip.id}/result/`,
          file,
          seconds ? { seconds: String(Number(seconds) * 60) } : {},
          setPart,
          stop.current.signal,
        ),
      );
      void client.invalidateQueries({ queryKey: ["slips"] });
    } catch (error) {
      setTrouble((error as ApiError).message);
    }
    setPart(null);
  };
  const returning = slip.returning;
  if (returning?.state === "working")
    return (
      <p role="status" className="mt-4 flex items-center gap-3">
        {returning.name} is being looked at{" "}
        <progress
          max={1}
          value={returning.progress}
          aria-label="looking at the result"
          style={{ accentColor: "#000" }}
        />
      </p>
    );
  return (
    <div className="mt-4 flex flex-wrap items-center gap-3" role="group" aria-label="Your answer">
      {returning?.state === "refused" && part === null && (
        <p role="alert" className="m-0 w-full">
          <strong>{returning.reason}</strong> Nothing of it was stored; hand in another file.
        </p>
      )}
      <label>
        minutes it took{" "}
        <input
          className="field w-[80px]"
          type="number"
          min={0}
          value={seconds}
          onChange={(event) => setSeconds(event.target.value)}
        />
      </label>
      <label className="plain cursor-pointer focus-within:outline-3">
        return a result
        <input
          type="file"
          className="sr-only"
          accept="image/png,image/jpeg,image/tiff"
          disabled={part !== null}
          onChange={(event) => {
            void give(event.target.files?.[0]);
            event.target.value = "";
          }}
        />
      </label>
      {part !== null && (
        <>
          <progress
            max={1}
            value={part}
            aria-label="sending the result"
            style={{ accentColor: "#000" }}
          />
          <button type="button" className="plain" onClick={() => stop.current?.abort()}>
            cancel
          </button>
        </>
      )}
      {trouble && (
        <p role="alert" className="m-0 w-full">
          <strong>{trouble}</strong>
        </p>
      )}
    </div>
  );
}
