import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import type { Shapes, Slip } from "../api/client";
import { sessionQuery, useSeen } from "../api/queries";
import { slipOutsideQuery, slipQuery, useBuildPackage, type Seen } from "../api/slips";
import { Notice } from "../ui/Notice";
import { counted, day } from "../ui/words";
import { Answer } from "./Answer";
import { Untouched } from "./Elsewhere";
import { Leaving } from "./Leaving";
import { Offered } from "./Offered";
import { Recipient, type To } from "./Recipient";
import { RegionPart } from "./RegionPart";
import { stateWords } from "../ui/slipWords";
import { Talk } from "./Talk";
import { useDraft } from "./useDraft";

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

function Sheet({ slip }: { slip: Slip }) {
  const session = useQuery(sessionQuery);
  const open = slip.state === "written" && slip.mine;
  useSeen(slip.picture, true);
  const mine = slip.worker.id !== null && slip.worker.name === session.data?.name && !slip.mine;
  const { draft, setDraft, kept, keeping, busy, trouble, take, send, step, cells } = useDraft(
    slip,
    open,
  );
  const offer = useQuery({ ...slipOutsideQuery(slip), enabled: sendable(slip) }).data;
  return (
    <main className="mx-auto max-w-[1080px] px-6 py-4">
      <Head slip={slip} open={open} />
      <Untouched slip={slip} />
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
          onLeaveOff={
            open && slip.regions.length > 1
              ? () => take(cells.filter((one) => one !== region.sent_cell))
              : null
          }
        />
      ))}
      {open && (
        <Offered
          slip={slip}
          onTake={(cell, instead) => take([...cells.filter((one) => one !== instead), cell])}
        />
      )}
      <Talk slip={slip} worker={mine} />
      {sendable(slip) && draft.tier && offer && (
        <Leaving slip={slip} offer={offer} tier={draft.tier} />
      )}
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
            <Recipient
              slip={slip}
              outside={offer?.outside}
              draft={draft}
              onChange={(to) => setDraft((old) => ({ ...old, ...to }))}
            />
          )}
          <SupervisorSteps
            slip={slip}
            draft={draft}
            offer={offer}
            waits={busy || (draft.tier !== null && !kept)}
            onSend={(seen) => void send(seen)}
            onWithdraw={() => step("withdraw")}
          />
          {slip.state !== "withdrawn" && <Package slip={slip} />}
          {mine && slip.state === "sent" && (
            <button type="button" className="plain" disabled={busy} onClick={() => step("take-up")}>
              I am at it
            </button>
          )}
          {open && <span className="small">{keeping ? "keeping …" : kept ? "kept" : "…"}</span>}
        </div>
        {mine && (slip.state === "sent" || slip.state === "working") && <Answer slip={slip} />}
        {mine && slip.replaceable && (
          <>
            <p className="mb-0">
              Nobody has looked at what you returned yet: another file can take its place.
            </p>
            <Answer slip={slip} />
          </>
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

/** Everything that is needed to work it, as one file; built when it is asked for. */
function Package({ slip }: { slip: Slip }) {
  const build = useBuildPackage(slip.id);
  if (slip.package.ready)
    return (
      <a
        className="plain text-inherit no-underline"
        href={`/api/slips/${slip.id}/package/`}
        download
      >
        package: pictures, masks, words
      </a>
    );
  if (slip.package.progress !== null)
    return (
      <span role="status" className="flex items-center gap-2">
        packing
        <progress
          className="h-2 w-[80px]"
          max={1}
          value={slip.package.progress}
          aria-label="packing"
          style={{ accentColor: "#000" }}
        />
      </span>
    );
  return (
    <button
      type="button"
      className="plain"
      disabled={build.isPending}
      onClick={() => build.mutate()}
    >
      build the package
    </button>
  );
}

const WITHDRAWN_FROM = ["written", "sent", "working", "question", "declined", "returned", "failed"];
const sendable = (slip: Slip) => slip.mine && (slip.state === "written" || slip.state === "failed");

/** Sending a slip, and taking it back. */
function SupervisorSteps({
  slip,
  draft,
  offer,
  waits,
  onSend,
  onWithdraw,
}: {
  slip: Slip;
  draft: To;
  offer: Shapes["SlipOutside"] | undefined;
  /** Something is being stored. */
  waits: boolean;
  onSend: (seen: Seen[]) => void;
  onWithdraw: () => void;
}) {
  if (!slip.mine) return null;
  // What leaves the house must have been seen as it is now.
  const seen = draft.tier
    ? offer?.regions.map(({ region, leaves }) => ({ region, box: leaves.box }))
    : [];
  const nobody = slip.workers.length === 0 && !draft.method && !draft.tier;
  return (
    <>
      {sendable(slip) && (
        <button
          type="button"
          className="plain"
          disabled={waits || nobody || !seen}
          onClick={() => onSend(seen ?? [])}
        >
          {slip.state === "failed" ? "send it again" : "send it back"}
          {draft.tier && ": let it leave"}
        </button>
      )}
      {WITHDRAWN_FROM.includes(slip.state) && (
        <button type="button" className="plain" disabled={waits} onClick={onWithdraw}>
          withdraw it
        </button>
      )}
    </>
  );
}

/** Which slip it is, how it stands, and what must be known before it is read. */
function Head({ slip, open }: { slip: Slip; open: boolean }) {
  return (
    <>
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
        {slip.job}; {counted(slip.regions.length, "region")} to be worked in attempt{" "}
        {slip.attempt_number}, written by {slip.written_by}
        {!open && slip.due ? `; due ${day(slip.due)}` : ""}
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
    </>
  );
}
