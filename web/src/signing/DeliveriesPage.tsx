import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import {
  deliveriesQuery,
  useDeliveries,
  type Deliveries,
  type Delivery,
  type DeliveryAsked,
} from "../api/signing";
import { Notice } from "../ui/Notice";
import { bytes, counted, moment } from "../ui/words";

type Final = NonNullable<DeliveryAsked["finals"]>[number];
const FINALS: { name: Final; words: string }[] = [
  { name: "tiff", words: "TIFF" },
  { name: "png", words: "PNG" },
  { name: "jpeg", words: "JPEG" },
];
const EXTRAS = [
  { name: "layered", words: "layers (OpenRaster)" },
  { name: "masks", words: "masks, GeoJSON, annotations" },
  { name: "sheets", words: "before and after, contact sheet (PDF)" },
] as const;

/** What of a job is signed off, and the zips that are built of it. */
export function DeliveriesPage() {
  const job = Number(useParams().id);
  const found = useQuery(deliveriesQuery(job));
  if (found.isPending) return <Notice title="Looking what is signed off …" busy />;
  if (!found.data)
    return (
      <Notice title="The deliveries cannot be shown" alert>
        {found.error?.message}
        <p>
          <button type="button" className="plain" onClick={() => void found.refetch()}>
            try again
          </button>{" "}
          <Link to="/jobs">to the jobs</Link>
        </p>
      </Notice>
    );
  const { data } = found;
  return (
    <main className="mx-auto max-w-[1080px] px-6 py-4">
      <div className="mb-2 flex items-baseline justify-between">
        <h1 className="text-xl">Deliveries of {data.job}</h1>
        <p className="m-0" role="status">
          {counted(data.signed.length, "picture")} signed off, {data.waiting} not yet.
        </p>
      </div>
      {data.signed.length === 0 ? (
        <Notice inside title="Nothing is signed off yet">
          On the Bench of a picture that is done, sign it off; then it can be delivered from here.
        </Notice>
      ) : (
        <Ask job={job} found={data} />
      )}
      {data.deliveries.length > 0 && (
        <section className="rule-top py-2" aria-label="Built">
          <h2 className="text-[1rem]">Built</h2>
          <ul className="m-0 list-none p-0">
            {data.deliveries.map((one) => (
              <Row key={one.id} job={job} delivery={one} />
            ))}
          </ul>
        </section>
      )}
    </main>
  );
}

type Wanted = {
  pictures: number[];
  finals: Final[];
  quality: number;
  sizes: string[];
  layered: boolean;
  masks: boolean;
  sheets: boolean;
};

const toggled = <T,>(some: T[], one: T) =>
  some.includes(one) ? some.filter((other) => other !== one) : [...some, one];

function Ask({ job, found }: { job: number; found: Deliveries }) {
  const { ask } = useDeliveries(job);
  const [wanted, setWanted] = useState<Wanted>(() => ({
    pictures: found.signed.map((one) => one.picture),
    finals: ["tiff"],
    quality: 92,
    sizes: found.sizes,
    layered: true,
    masks: true,
    sheets: true,
  }));
  const change = (part: Partial<Wanted>) => setWanted((old) => ({ ...old, ...part }));
  const signed = new Set(found.signed.map((one) => one.picture));
  const pictures = wanted.pictures.filter((one) => signed.has(one));
  const something =
    wanted.finals.length > 0 || wanted.sizes.length > 0 || wanted.layered || wanted.masks;
  return (
    <form
      className="rule-top py-2"
      aria-label="A delivery"
      onSubmit={(event) => {
        event.preventDefault();
        if (pictures.length > 0 && something && !ask.isPending) ask.mutate({ ...wanted, pictures });
      }}
    >
      <fieldset className="m-0 border-0 p-0">
        <legend>pictures</legend>
        <ul className="m-0 columns-2 list-none p-0">
          {found.signed.map((one) => (
            <li key={one.picture}>
              <Tick
                checked={wanted.pictures.includes(one.picture)}
                onChange={() => change({ pictures: toggled(wanted.pictures, one.picture) })}
              >
                {String(one.number).padStart(2, "0")} {one.name}, attempt {one.attempt}{" "}
                <span className="small">
                  signed by {one.person}, {moment(one.at)}
                </span>
              </Tick>
            </li>
          ))}
        </ul>
      </fieldset>
      <div className="mt-2 grid grid-cols-3 gap-6">
        <fieldset className="m-0 border-0 p-0">
          <legend>in their own size</legend>
          {FINALS.map(({ name, words }) => (
            <Tick
              key={name}
              checked={wanted.finals.includes(name)}
              onChange={() => change({ finals: toggled(wanted.finals, name) })}
            >
              {words}
            </Tick>
          ))}
          <label className="flex items-center gap-2">
            quality of JPEGs
            <input
              className="field w-16"
              type="number"
              min={60}
              max={100}
              value={wanted.quality}
              onChange={(event) => change({ quality: Number(event.target.value) })}
            />
          </label>
        </fieldset>
        <fieldset className="m-0 border-0 p-0">
          <legend>at the sizes of the job, as JPEG</legend>
          {found.sizes.map((name) => (
            <Tick
              key={name}
              checked={wanted.sizes.includes(name)}
              onChange={() => change({ sizes: toggled(wanted.sizes, name) })}
            >
              {name}
            </Tick>
          ))}
        </fieldset>
        <fieldset className="m-0 border-0 p-0">
          <legend>besides</legend>
          {EXTRAS.map(({ name, words }) => (
            <Tick
              key={name}
              checked={wanted[name]}
              onChange={() => change({ [name]: !wanted[name] })}
            >
              {words}
            </Tick>
          ))}
          <p className="m-0 small">The record of every ruling and all hashes always go along.</p>
        </fieldset>
      </div>
      <p className="m-0 mt-2 flex items-center gap-3">
        <button
          type="submit"
          className="plain"
          aria-disabled={pictures.length === 0 || !something || ask.isPending}
        >
          build {counted(pictures.length, "picture")}
        </button>
        {ask.isError && <strong role="alert">{ask.error.message}</strong>}
      </p>
    </form>
  );
}

function Tick({
  checked,
  onChange,
  children,
}: {
  checked: boolean;
  onChange: () => void;
  children: React.ReactNode;
}) {
  return (
    <label className="flex min-h-[26px] items-center gap-2">
      <input type="checkbox" checked={checked} onChange={onChange} />
      <span>{children}</span>
    </label>
  );
}

function Row({ job, delivery }: { job: number; delivery: Delivery }) {
  const { again } = useDeliveries(job);
  return (
    <li
      className="rule-top grid grid-cols-[1fr_320px] items-center gap-4 py-2"
      data-state={delivery.state}
    >
      <span>
        {delivery.pictures.join(", ")}
        <span className="block small">
          {delivery.holds.join(", ")}; asked by {delivery.person}, {moment(delivery.at)}
        </span>
      </span>
      <span>
        {(delivery.state === "waiting" || delivery.state === "building") && (
          <>
            <progress
              className="block h-2 w-full"
              value={delivery.progress}
              aria-label="how far the delivery is"
              style={{ accentColor: "#000" }}
            />
            <span className="small">{delivery.words || delivery.state}</span>
          </>
        )}
        {delivery.file && (
          <>
            <a href={delivery.file} download>
              download, {bytes(delivery.bytes)}
            </a>
            <span className="block small break-all">SHA-256 {delivery.sha256.slice(0, 16)}…</span>
          </>
        )}
        {delivery.state === "failed" && <strong role="alert">{delivery.reason} </strong>}
        {delivery.state === "forgotten" && "kept no longer "}
        {(delivery.state === "failed" || delivery.state === "forgotten") && (
          <button
            type="button"
            className="quiet"
            disabled={again.isPending}
            onClick={() => again.mutate(delivery.id)}
          >
            build it again
          </button>
        )}
      </span>
    </li>
  );
}
