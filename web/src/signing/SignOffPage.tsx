import { useQuery } from "@tanstack/react-query";
import type View from "ol/View";
import { useState, type ReactNode } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { signingQuery, useSigning, type Signing } from "../api/signing";
import { useKeys } from "../keys";
import { Stage } from "../stage/Stage";
import { Key } from "../ui/Key";
import { KindPicture } from "../ui/marks";
import { Notice } from "../ui/Notice";
import { Trouble } from "../ui/Trouble";
import { moment } from "../ui/words";
import { DESK } from "../ui/places";
import { Remarks } from "./Remarks";

const none: never[] = [];
const ignored = () => undefined;

export function SignOffPage() {
  const { id } = useParams();
  const signing = useQuery(signingQuery(Number(id)));
  if (signing.isPending) return <Notice title="Looking what would leave …" busy />;
  if (!signing.data)
    return (
      <Notice title="The sign-off cannot be shown" alert>
        {signing.error?.message}
        <p>
          <button type="button" className="plain" onClick={() => void signing.refetch()}>
            try again
          </button>{" "}
          <Link to={`/pictures/${id}`}>to the Bench</Link>
        </p>
      </Notice>
    );
  return <Sheet key={signing.data.picture} signing={signing.data} />;
}

function Sheet({ signing }: { signing: Signing }) {
  const navigate = useNavigate();
  const bench = `/pictures/${signing.picture}${signing.attempt_number === null ? "" : `?attempt=${signing.attempt_number}`}`;
  useKeys({ signOff: () => void navigate(bench), desk: () => void navigate(DESK) });
  return (
    <main className="scrolls h-full">
      <div className="mx-auto max-w-[1080px] px-6 py-4">
        <div className="mb-2 flex items-baseline gap-4">
          <h1 className="text-xl">
            Sign-off: {String(signing.number).padStart(2, "0")} {signing.name}
          </h1>
          <span role="status">{stateWords(signing)}</span>
          <span className="ml-auto flex gap-4">
            <Link to={bench}>
              to the Bench <Key action="signOff" />
            </Link>
            <Link to={`/jobs/${signing.job_id}/deliveries`}>deliveries of {signing.job}</Link>
          </span>
        </div>
        {signing.image && <Both signing={signing} image={signing.image} />}
        <div className="grid grid-cols-2 gap-x-8">
          <Regions signing={signing} />
          <div>
            <Sizes signing={signing} />
            <Known signing={signing} />
          </div>
        </div>
        <Remarks signing={signing} />
        <Act signing={signing} />
        {signing.signed && <Guests signing={signing} />}
        {signing.past.length > 0 && (
          <Part title="Reopened before">
            <ul className="m-0 list-none p-0">
              {signing.past.map((one) => (
                <li key={one.at}>
                  attempt {one.attempt}, signed by {one.person} on {moment(one.at)}; reopened by{" "}
                  {one.reopened_by}: {one.reason}
                </li>
              ))}
            </ul>
          </Part>
        )}
      </div>
    </main>
  );
}

function stateWords(signing: Signing): string {
  if (signing.signed)
    return `attempt ${signing.signed.attempt} is signed off by ${signing.signed.person}, ${moment(signing.signed.at)}`;
  if (signing.attempt_number === null) return "nothing can leave yet";
  return `attempt ${signing.attempt_number} would leave`;
}

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="rule-top py-2" aria-label={title}>
      <h2 className="text-[1rem]">{title}</h2>
      {children}
    </section>
  );
}

/** What came and what leaves, beside each other and in step. */
function Both({ signing, image }: { signing: Signing; image: NonNullable<Signing["image"]> }) {
  const [link] = useState<{ view: View | null }>({ view: null });
  const whole = [0, 0, signing.original.width, signing.original.height];
  const shared = {
    ready: none,
    marks: none,
    zoom: "whole" as const,
    box: whole,
    at: "whole",
    link,
    onSettled: ignored,
  };
  return (
    <div className="mb-2 grid grid-cols-2 gap-2">
      <figure className="order-2 m-0">
        <div className="relative h-[260px]">
          <Stage {...shared} image={image} label="what leaves" />
        </div>
        <figcaption className="small">
          leaves: attempt {signing.attempt_number}, {signing.method}
        </figcaption>
      </figure>
      <figure className="m-0">
        <div className="relative h-[260px]">
          <Stage {...shared} image={signing.original} follows label="the original" />
        </div>
        <figcaption className="small">original: {signing.original.facts}</figcaption>
      </figure>
    </div>
  );
}

function Regions({ signing }: { signing: Signing }) {
  return (
    <Part title="Regions">
      <table className="w-full border-collapse text-left">
        <tbody>
          {signing.regions.map((region) => (
            <tr key={region.number} className="align-baseline">
              <th scope="row" className="pr-3 font-normal">
                {region.number} {region.name}
              </th>
              <td className="pr-3">
                {region.ruling ?? "not ruled on"}
                {region.size ? ` (${region.size})` : ""}
              </td>
              <td>{region.person}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Part>
  );
}

function Sizes({ signing }: { signing: Signing }) {
  return (
    <Part title="Sizes">
      <ul className="m-0 list-none p-0">
        {signing.sizes.map((size) => (
          <li key={size.name}>
            {size.name}: {size.width.toLocaleString()} × {size.height.toLocaleString()} px{" "}
            <span className="small">({size.spec})</span>
          </li>
        ))}
      </ul>
      <p className="m-0 small">For a {signing.use}.</p>
    </Part>
  );
}

function Known({ signing }: { signing: Signing }) {
  if (signing.accepted.length === 0) return null;
  return (
    <Part title="Found and acceptable">
      <ul className="m-0 list-none p-0">
        {signing.accepted.map((one, place) => (
          <li key={place} className="flex items-center gap-2">
            <KindPicture kind={one.kind} />
            {one.kind} {one.region === null ? "outside every region" : `in region ${one.region}`},
            said {one.person}
          </li>
        ))}
      </ul>
    </Part>
  );
}

/** Signing, or what stands in its way; once signed, reopening. */
function Act({ signing }: { signing: Signing }) {
  const { sign, reopen } = useSigning(signing.picture);
  const [reason, setReason] = useState("");
  const trouble = sign.error ?? reopen.error;
  if (signing.signed)
    return (
      <Part title="Reopen it">
        <form
          className="flex items-end gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            if (reason.trim()) reopen.mutate(reason, { onSuccess: () => setReason("") });
          }}
        >
          <label className="flex flex-1 flex-col">
            why
            <input
              className="field"
              maxLength={2000}
              value={reason}
              onChange={(event) => setReason(event.target.value)}
            />
          </label>
          <button type="submit" className="plain" disabled={!reason.trim() || reopen.isPending}>
            reopen it
          </button>
        </form>
        <Trouble error={trouble} />
      </Part>
    );
  const blocked = signing.reasons.length > 0;
  return (
    <Part title="Sign it off">
      {signing.reasons.map((one) => (
        <p key={one} className="m-0">
          {one}
        </p>
      ))}
      {signing.attempt !== null && signing.reasons.length === 0 && (
        <p className="m-0 flex items-center gap-3 py-1">
          <button
            type="button"
            className="plain"
            aria-disabled={blocked || sign.isPending}
            onClick={() =>
              !blocked &&
              !sign.isPending &&
              signing.attempt !== null &&
              sign.mutate({ attempt: signing.attempt })
            }
          >
            sign attempt {signing.attempt_number} off
          </button>
          <span className="small">
            It stays as it is from then on; reopening it asks for a reason.
          </span>
        </p>
      )}
      <Trouble error={trouble} />
    </Part>
  );
}

function Guests({ signing }: { signing: Signing }) {
  const { release } = useSigning(signing.picture);
  const waiting = signing.guests.filter((one) => !one.released);
  return (
    <Part title="Guests">
      {signing.guests.length === 0 && <p className="m-0">This job has no guests.</p>}
      <ul className="m-0 list-none p-0">
        {signing.guests.map((one) => (
          <li key={one.id}>
            {one.name}: {one.released ? "sees it" : "does not see it yet"}
          </li>
        ))}
      </ul>
      {waiting.length > 0 && (
        <button
          type="button"
          className="plain mt-1"
          disabled={release.isPending}
          onClick={() => release.mutate(waiting.map((one) => one.id))}
        >
          release it to {waiting.map((one) => one.name).join(", ")}
        </button>
      )}
      <Trouble error={release.error} />
    </Part>
  );
}
