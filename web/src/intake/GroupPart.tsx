import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Arrival, Intake } from "../api/client";
import { fitQuery } from "../api/queries";
import type { Facts } from "../facts/facts";
import { Cropped, FurtherFacts } from "../facts/FurtherFacts";
import { MethodFacts } from "../facts/MethodFacts";
import { counted } from "../ui/words";
import { Belongs } from "./Belongs";
import { megabytes } from "./megabytes";
import { missing, type Gathered, type Part } from "./pairing";

/** A result that waits, with the picture it is paired with. */
export type Waiting = { arrival: Arrival; group: Gathered };
type GroupProps = {
  group: Gathered;
  groups: Gathered[];
  intake: Intake;
  trouble: string | null;
  busy: boolean;
  here: boolean;
  factsOf: (arrival: Arrival, group: Gathered) => Facts;
  /** The results that wait, by the method that is said of them. */
  byMethod: ReadonlyMap<string, readonly Waiting[]>;
  onFacts: (arrival: Arrival, facts: Facts) => void;
  onName: (name: string) => void;
  onPlace: (arrival: Arrival, group: string, part: Part, of?: number) => void;
  onStore: () => void;
  onForget: (arrival: Arrival) => void;
};

/** The files of one picture as they are paired, each to be put elsewhere. */
export function GroupPart({
  group,
  groups,
  intake,
  trouble,
  busy,
  here,
  factsOf,
  byMethod,
  onFacts,
  onName,
  onPlace,
  onStore,
  onForget,
}: GroupProps) {
  const way = missing(group);
  const alikeTo = (arrival: Arrival): Waiting[] =>
    (byMethod.get(factsOf(arrival, group).method) ?? []).filter(
      (one) => one.arrival.id !== arrival.id,
    );
  const files: [Arrival, Part][] = [
    ...(group.original ? [[group.original, "original"] as [Arrival, Part]] : []),
    ...(group.mask ? [[group.mask, "mask"] as [Arrival, Part]] : []),
    ...group.results.map((one): [Arrival, Part] => [one, "result"]),
    ...group.outlines.map((one): [Arrival, Part] => [one.arrival, "outline"]),
    ...group.aside.map((one): [Arrival, Part] => [one, "aside"]),
  ];
  return (
    <section className="rule-top py-2" aria-label={`picture: ${group.name}`}>
      <div className="flex items-center gap-3">
        {group.picture === null ? (
          <label>
            picture{" "}
            <input
              className="field w-[260px]"
              value={group.name}
              maxLength={160}
              onChange={(event) => onName(event.target.value)}
            />
          </label>
        ) : (
          <h2 className="text-[1rem]">to {group.name}, which is there already</h2>
        )}
        <span className="small">
          {group.picture === null
            ? group.mask
              ? "regions from the mask"
              : "regions from what changed"
            : ""}
        </span>
        <span className="ml-auto">
          {here ? (
            <span role="status">bringing in …</span>
          ) : way ? (
            <strong>{way}</strong>
          ) : (
            <button
              type="button"
              className="plain"
              disabled={busy}
              aria-label={`bring in ${group.name}`}
              onClick={onStore}
            >
              bring in
            </button>
          )}
        </span>
      </div>
      {trouble && (
        <p role="alert" className="m-0">
          <strong>{trouble}</strong> Nothing of this picture was stored.
        </p>
      )}
      <ul className="m-0 mt-1 list-none p-0">
        {files.map(([arrival, part]) => (
          <li
            key={arrival.id}
            className="grid grid-cols-[84px_minmax(150px,1fr)_120px_130px_minmax(0,560px)_64px] items-center gap-2 py-1"
          >
            {arrival.small ? (
              <img src={arrival.small} alt="" className="h-[52px] w-[84px] object-cover" />
            ) : (
              <span
                role="status"
                className="grid h-[52px] w-[84px] place-items-center border border-dashed small"
                style={{ borderColor: "var(--line)" }}
              >
                reading
              </span>
            )}
            <span className="min-w-0">
              <span className="block truncate" title={arrival.name}>
                {arrival.name}
              </span>
              <span className="block small">
                {arrival.state === "ready"
                  ? `${arrival.width.toLocaleString()} × ${arrival.height.toLocaleString()}, ${arrival.facts}, ${megabytes(arrival.size)}`
                  : megabytes(arrival.size)}
              </span>
            </span>
            <label>
              <span className="sr-only">{arrival.name} is the</span>
              <select
                className="field w-full"
                value={part}
                onChange={(event) => onPlace(arrival, group.key, event.target.value as Part)}
              >
                {group.picture === null && <option value="original">original</option>}
                <option value="result">result</option>
                {group.picture === null && <option value="mask">mask</option>}
                {group.results.length > 0 && <option value="outline">outline of a result</option>}
                <option value="aside">leave aside</option>
              </select>
            </label>
            <Belongs
              arrival={arrival}
              group={group}
              groups={groups}
              pictures={intake.job.pictures}
              onChange={(key) => onPlace(arrival, key, part === "original" ? "result" : part)}
            />
            {part === "result" ? (
              <FactsPart
                arrival={arrival}
                facts={factsOf(arrival, group)}
                intake={intake}
                alike={(byMethod.get(factsOf(arrival, group).method)?.length ?? 1) - 1}
                onChange={(one) => onFacts(arrival, one)}
                onAll={() => {
                  const said = factsOf(arrival, group);
                  for (const other of alikeTo(arrival)) {
                    const own = factsOf(other.arrival, other.group);
                    onFacts(other.arrival, { ...said, seconds: own.seconds, cost: own.cost });
                  }
                }}
                fit={
                  <Fit job={intake.job.id} group={group} arrival={arrival}>
                    <Cropped
                      facts={factsOf(arrival, group)}
                      label={`${arrival.name}, asked`}
                      onChange={(one) => onFacts(arrival, one)}
                    />
                  </Fit>
                }
              />
            ) : part === "outline" ? (
              <label>
                made with it:{" "}
                <select
                  className="field"
                  value={group.outlines.find((one) => one.arrival === arrival)?.of ?? ""}
                  onChange={(event) =>
                    onPlace(arrival, group.key, "outline", Number(event.target.value))
                  }
                >
                  <option value="" disabled>
                    which result?
                  </option>
                  {group.results.map((one) => (
                    <option key={one.id} value={one.id}>
                      {one.name}
                    </option>
                  ))}
                </select>
              </label>
            ) : (
              <span />
            )}
            <button
              type="button"
              className="plain px-2"
              aria-label={`forget ${arrival.name}`}
              disabled={busy}
              onClick={() => onForget(arrival)}
            >
              forget
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** How a result lies on its original. `children`: what is asked of one that was cropped. */
function Fit({
  job,
  group,
  arrival,
  children,
}: {
  job: number;
  group: Gathered;
  arrival: Arrival;
  children: React.ReactNode;
}) {
  const fit = useQuery({
    ...fitQuery(job, { arrival: group.original?.id ?? null, picture: group.picture }, arrival.id),
    // Both must have been read before they can be compared.
    enabled:
      arrival.state === "ready" && (group.picture !== null || group.original?.state === "ready"),
  });
  if (!fit.data || fit.data.state === "working")
    return (
      <span className="small">
        {fit.isError ? fit.error.message : fit.isFetching || fit.data ? "does it fit? …" : ""}
      </span>
    );
  return fit.data.fits ? (
    <>
      <span className="small">
        {["fits", ...fit.data.words, counted(fit.data.regions, "changed place")].join("; ")}
      </span>
      {fit.data.cropped && children}
    </>
  ) : (
    <strong className="small" role="alert">
      {fit.data.reason}
    </strong>
  );
}

function FactsPart({
  arrival,
  facts,
  intake,
  alike,
  onChange,
  onAll,
  fit,
}: {
  arrival: Arrival;
  facts: Facts;
  intake: Intake;
  /** How many other results wait that were made by the same method. */
  alike: number;
  onChange: (facts: Facts) => void;
  onAll: () => void;
  fit: React.ReactNode;
}) {
  const [further, setFurther] = useState(false);
  const said = [
    facts.terms,
    facts.leftHouse ? "left the house" : "",
    facts.settings.length ? counted(facts.settings.length, "setting") : "",
  ].filter(Boolean);
  return (
    <span className="flex flex-col gap-[2px]">
      <MethodFacts
        facts={facts}
        methods={intake.methods}
        label={arrival.name}
        tight
        onChange={onChange}
      />
      <span className="flex flex-wrap items-center gap-x-3">
        {fit}
        <button
          type="button"
          className="quiet -ml-1"
          aria-expanded={further}
          onClick={() => setFurther((old) => !old)}
        >
          {said.length ? said.join(", ") : "terms and settings"}
        </button>
        {alike > 0 && (
          <button type="button" className="quiet" onClick={onAll}>
            the same for {counted(alike, "other result")} by {facts.method}
          </button>
        )}
      </span>
      {further && (
        <FurtherFacts facts={facts} terms={intake.terms} label={arrival.name} onChange={onChange} />
      )}
    </span>
  );
}
