import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState, type DragEvent } from "react";
import { Link, useParams } from "react-router";
import { ApiError, api, data, type Arrival, type Intake } from "../api/client";
import { broughtIn, fitQuery, intakeQuery } from "../api/queries";
import { Notice } from "../ui/Notice";
import { counted } from "../ui/words";
import { asked, begunFrom, type Facts } from "../facts/facts";
import { FurtherFacts } from "../facts/FurtherFacts";
import { MethodFacts } from "../facts/MethodFacts";
import { Answers } from "./Answers";
import { chosen, dropped, readable, type Named } from "./dropped";
import { sendInParts } from "./sending";
import { gathered, methodFrom, missing, type Gathered, type Part, type Placed } from "./pairing";

type Coming = {
  key: number;
  file: File;
  name: string;
  part: number;
  state: "waiting" | "sending" | "refused" | "cancelled";
  words: string;
  stop: AbortController;
};
const AT_ONCE = 2;
const size = (bytes: number) =>
  `${(bytes / 1e6).toLocaleString(undefined, { maximumFractionDigits: 1 })} MB`;

export function IntakePage() {
  const { id } = useParams();
  const intake = useQuery(intakeQuery(Number(id)));
  if (intake.isPending) return <Notice title="Opening the intake …" busy />;
  if (!intake.data)
    return (
      <Notice title="The intake cannot be shown" alert>
        {intake.error?.message}
        <p>
          <button type="button" className="plain" onClick={() => void intake.refetch()}>
            try again
          </button>{" "}
          <Link to="/jobs">to the jobs</Link>
        </p>
      </Notice>
    );
  return <Table key={intake.data.job.id} intake={intake.data} />;
}

/** Did everything arrive, and does it fit? */
function Table({ intake }: { intake: Intake }) {
  const client = useQueryClient();
  const job = intake.job.id;
  const [coming, setComing] = useState<Coming[]>([]);
  const [placed, setPlaced] = useState<Placed>({});
  const [names, setNames] = useState<Record<string, string>>({});
  const [facts, setFacts] = useState<Record<number, Facts>>({});
  const [over, setOver] = useState(false);
  const [leftOut, setLeftOut] = useState(0);
  const [storing, setStoring] = useState<{ key: string; at: number; of: number } | null>(null);
  const [trouble, setTrouble] = useState<Record<string, string>>({});
  const [done, setDone] = useState<{ name: string; picture: number }[]>([]);
  const queue = useRef<Coming[]>([]);
  const running = useRef(0);
  const serial = useRef(0);
  const cancelled = useRef(false);
  const picker = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);

  const again = () => client.invalidateQueries({ queryKey: ["intake", job] });
  const mark = (key: number, change: Partial<Coming>) =>
    setComing((old) => old.map((one) => (one.key === key ? { ...one, ...change } : one)));
  const pump = () => {
    while (running.current < AT_ONCE && queue.current.length) {
      const next = queue.current.shift();
      if (!next || next.stop.signal.aborted) continue;
      running.current += 1;
      mark(next.key, { state: "sending" });
      sendInParts(job, next.file, next.name, (part) => mark(next.key, { part }), next.stop.signal)
        .then(() => setComing((old) => old.filter((one) => one.key !== next.key)))
        .catch((error: ApiError) =>
          mark(
            next.key,
            error.status === -1
              ? { state: "cancelled", words: error.message }
              : { state: "refused", words: error.message },
          ),
        )
        .finally(() => {
          running.current -= 1;
          void again();
          pump();
        });
    }
  };
  const take = (named: Named[]) => {
    const { taken, others } = readable(named);
    setLeftOut(others);
    const fresh = taken.map(({ file, name }): Coming => ({
      key: (serial.current += 1),
      file,
      name,
      part: 0,
      state: "waiting",
      words: "",
      stop: new AbortController(),
    }));
    setComing((old) => [
      ...old.filter((one) => one.state === "waiting" || one.state === "sending"),
      ...fresh,
    ]);
    queue.current.push(...fresh);
    pump();
  };
  const stopOne = (one: Coming) => {
    one.stop.abort();
    if (one.state === "waiting")
      mark(one.key, { state: "cancelled", words: `${one.file.name}: cancelled` });
  };
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void dropped(event.dataTransfer).then(take);
  };

  const groups = gathered(intake, placed, names);
  const factsOf = (arrival: Arrival, group: Gathered): Facts => {
    const guess = methodFrom(arrival.words, group.name);
    const known = intake.methods.find(
      (method) => method.name.toLowerCase() === guess.toLowerCase(),
    );
    return facts[arrival.id] ?? begunFrom(known, guess);
  };
  const resultOf = (arrival: Arrival, group: Gathered) => {
    return {
      arrival: arrival.id,
      ...asked(factsOf(arrival, group)),
      mask: group.outlines.find((outline) => outline.of === arrival.id)?.arrival.id ?? null,
    };
  };
  const store = async (some: Gathered[]) => {
    cancelled.current = false;
    setTrouble({});
    for (const [at, group] of some.entries()) {
      if (cancelled.current) break;
      setStoring({ key: group.key, at, of: some.length });
      try {
        if (group.picture !== null) {
          for (const arrival of group.results)
            await broughtIn(
              await data(
                api.POST("/api/pictures/{id}/attempts/", {
                  params: { path: { id: group.picture } },
                  body: resultOf(arrival, group),
                }),
              ),
              (part) => setStoring({ key: group.key, at: at + part, of: some.length }),
            );
          setDone((old) => [...old, { name: group.name, picture: group.picture ?? 0 }]);
        } else if (group.original) {
          const made = await broughtIn(
            await data(
              api.POST("/api/jobs/{id}/pictures/", {
                params: { path: { id: job } },
                body: {
                  name: group.name,
                  original: group.original.id,
                  mask: group.mask?.id ?? null,
                  results: group.results.map((arrival) => resultOf(arrival, group)),
                },
              }),
            ),
            (part) => setStoring({ key: group.key, at: at + part, of: some.length }),
          );
          setDone((old) => [...old, { name: group.name, picture: made.picture }]);
        }
      } catch (error) {
        setTrouble((old) => ({ ...old, [group.key]: (error as Error).message }));
      }
      await again();
    }
    setStoring(null);
    for (const key of ["desk", "jobs"]) void client.invalidateQueries({ queryKey: [key] });
  };
  const ready = groups.filter((group) => missing(group) === null);
  const unusable = intake.arrivals.filter((one) => one.state === "refused");
  const refused = coming.filter((one) => one.state === "refused" || one.state === "cancelled"),
    moving = coming.filter((one) => one.state === "waiting" || one.state === "sending");
  return (
    <main
      className="mx-auto max-w-[1240px] px-6 py-4"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
    >
      <div className="mb-2 flex items-baseline gap-4">
        <h1 className="text-xl">Bring in: {intake.job.name}</h1>
        <span role="status">
          {intake.arrivals.length === 0
            ? "nothing waits"
            : `${counted(intake.arrivals.length, "file")} waiting, nothing stored yet`}
        </span>
        <span className="ml-auto flex items-center gap-3">
          {storing ? (
            <>
              <span role="status">
                bringing in {Math.floor(storing.at) + 1} of {storing.of}
              </span>
              <progress
                max={storing.of}
                value={storing.at}
                aria-label="bringing in"
                style={{ accentColor: "#000" }}
              />
              <button
                type="button"
                className="plain"
                onClick={() => {
                  cancelled.current = true;
                }}
              >
                stop after this one
              </button>
            </>
          ) : (
            ready.length > 0 && (
              <button type="button" className="plain" onClick={() => void store(ready)}>
                bring in {ready.length === 1 ? "1 picture" : `all ${ready.length} pictures`}
              </button>
            )
          )}
        </span>
      </div>
      <div
        className="mb-3 flex items-center gap-4 border p-3"
        style={{
          borderColor: over ? "var(--ink)" : "var(--line)",
          borderStyle: "dashed",
          background: over ? "var(--lift)" : undefined,
        }}
      >
        <span className="flex-1">
          Drop originals, results and masks here, or whole folders. They are paired by name:{" "}
          <em>quay.jpg, quay-fortnimm.png, quay-mask.png</em>; a folder inside gives its name to
          what lies in it. JPEG, PNG and TIFF.
          {leftOut > 0 && (
            <strong role="status" className="block">
              {counted(leftOut, "file")} left out: not read here.
            </strong>
          )}
        </span>
        <button type="button" className="plain" onClick={() => picker.current?.click()}>
          choose files
        </button>
        <input
          ref={picker}
          type="file"
          multiple
          className="sr-only"
          aria-label="files to bring in"
          tabIndex={-1}
          onChange={(event) => {
            take(chosen(event.target.files ?? []));
            event.target.value = "";
          }}
        />
        <button type="button" className="plain" onClick={() => folder.current?.click()}>
          choose a folder
        </button>
        <input
          ref={folder}
          type="file"
          multiple
          className="sr-only"
          aria-label="a folder to bring in"
          tabIndex={-1}
          {...{ webkitdirectory: "" }}
          onChange={(event) => {
            take(chosen(event.target.files ?? []));
            event.target.value = "";
          }}
        />
      </div>
      {moving.length > 0 && (
        <section aria-label="On their way" className="mb-3">
          <div className="flex items-center gap-3">
            <h2 className="text-[1rem]">On their way</h2>
            <button type="button" className="plain" onClick={() => moving.forEach(stopOne)}>
              cancel all {moving.length}
            </button>
          </div>
          <ul className="m-0 list-none p-0">
            {moving.map((one) => (
              <li
                key={one.key}
                className="grid grid-cols-[1fr_240px_90px_80px] items-center gap-3 py-[2px]"
              >
                <span className="truncate">{one.name}</span>
                <progress
                  className="h-2 w-full"
                  max={1}
                  value={one.part}
                  aria-label={one.file.name}
                  style={{ accentColor: "#000" }}
                />
                <span>{one.part >= 1 ? "reading" : size(one.file.size)}</span>
                <button
                  type="button"
                  className="plain px-2"
                  aria-label={`cancel ${one.file.name}`}
                  onClick={() => stopOne(one)}
                >
                  cancel
                </button>
              </li>
            ))}
          </ul>
        </section>
      )}
      {(refused.length > 0 || unusable.length > 0) && (
        <section
          aria-label="Not taken"
          className="mb-3 border p-2"
          style={{ borderColor: "var(--ink)" }}
          role="alert"
        >
          <div className="flex items-center gap-3">
            <h2 className="text-[1rem]">Not taken</h2>
            <button
              type="button"
              className="plain"
              onClick={() => {
                setComing((old) =>
                  old.filter((one) => one.state === "waiting" || one.state === "sending"),
                );
                void Promise.all(
                  unusable.map((one) =>
                    data(api.DELETE("/api/arrivals/{id}/", { params: { path: { id: one.id } } })),
                  ),
                ).finally(() => void again());
              }}
            >
              seen
            </button>
          </div>
          <ul className="m-0 list-none p-0">
            {refused.map((one) => (
              <li key={one.key}>{one.words}</li>
            ))}
            {unusable.map((one) => (
              <li key={one.id}>{one.reason}</li>
            ))}
          </ul>
        </section>
      )}
      {done.length > 0 && (
        <section aria-label="Brought in" className="mb-3">
          <h2 className="text-[1rem]">Brought in</h2>
          <ul className="m-0 list-none p-0">
            {done.map((one, at) => (
              <li key={at}>
                <Link to={`/pictures/${one.picture}`}>{one.name}</Link>: its checks are running
              </li>
            ))}
          </ul>
        </section>
      )}
      <Answers job={job} arrivals={intake.arrivals} />
      {groups.map((group) => (
        <GroupPart
          key={group.key}
          group={group}
          groups={groups}
          intake={intake}
          trouble={trouble[group.key] ?? null}
          busy={storing !== null}
          here={storing?.key === group.key}
          factsOf={factsOf}
          onFacts={(arrival, one) => setFacts((old) => ({ ...old, [arrival.id]: one }))}
          onName={(name) => setNames((old) => ({ ...old, [group.key]: name }))}
          onPlace={(arrival, key, part, of) =>
            setPlaced((old) => ({ ...old, [arrival.id]: { group: key, part, of } }))
          }
          onStore={() => void store([group])}
          onForget={(arrival) => {
            void data(
              api.DELETE("/api/arrivals/{id}/", { params: { path: { id: arrival.id } } }),
            ).finally(() => void again());
          }}
        />
      ))}
      {groups.length === 0 && moving.length === 0 && done.length === 0 && (
        <Notice inside title="Nothing has arrived yet">
          Each file is read as it arrives; what cannot be used is refused at once, with the reason.
        </Notice>
      )}
    </main>
  );
}

type GroupProps = {
  group: Gathered;
  groups: Gathered[];
  intake: Intake;
  trouble: string | null;
  busy: boolean;
  here: boolean;
  factsOf: (arrival: Arrival, group: Gathered) => Facts;
  onFacts: (arrival: Arrival, facts: Facts) => void;
  onName: (name: string) => void;
  onPlace: (arrival: Arrival, group: string, part: Part, of?: number) => void;
  onStore: () => void;
  onForget: (arrival: Arrival) => void;
};

function GroupPart({
  group,
  groups,
  intake,
  trouble,
  busy,
  here,
  factsOf,
  onFacts,
  onName,
  onPlace,
  onStore,
  onForget,
}: GroupProps) {
  const way = missing(group);
  const alikeTo = (arrival: Arrival, of: Gathered): [Arrival, Gathered][] => {
    const { method } = factsOf(arrival, of);
    return groups.flatMap((other) =>
      other.results
        .filter((one) => one.id !== arrival.id && factsOf(one, other).method === method)
        .map((one): [Arrival, Gathered] => [one, other]),
    );
  };
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
                  ? `${arrival.width.toLocaleString()} × ${arrival.height.toLocaleString()}, ${arrival.facts}, ${size(arrival.size)}`
                  : size(arrival.size)}
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
            <label>
              <span className="sr-only">{arrival.name} belongs to</span>
              <select
                className="field w-full"
                value={group.key}
                onChange={(event) =>
                  onPlace(arrival, event.target.value, part === "original" ? "result" : part)
                }
              >
                {groups.map((one) => (
                  <option key={one.key} value={one.key}>
                    {one.name}
                  </option>
                ))}
                {intake.job.pictures
                  .filter((one) => !groups.some((other) => other.picture === one.id))
                  .map((one) => (
                    <option key={one.id} value={`picture ${one.id}`}>
                      {String(one.number).padStart(2, "0")} {one.name}
                    </option>
                  ))}
                <option value={`${arrival.name} alone`}>a picture of its own</option>
              </select>
            </label>
            {part === "result" ? (
              <FactsPart
                arrival={arrival}
                facts={factsOf(arrival, group)}
                intake={intake}
                alike={alikeTo(arrival, group).length}
                onChange={(one) => onFacts(arrival, one)}
                onAll={() => {
                  const said = factsOf(arrival, group);
                  for (const [other, of] of alikeTo(arrival, group)) {
                    const own = factsOf(other, of);
                    onFacts(other, { ...said, seconds: own.seconds, cost: own.cost });
                  }
                }}
                fit={<Fit job={intake.job.id} group={group} arrival={arrival} />}
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

function Fit({ job, group, arrival }: { job: number; group: Gathered; arrival: Arrival }) {
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
    <span className="small">fits; {counted(fit.data.regions, "changed place")}</span>
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
