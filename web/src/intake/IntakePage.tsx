import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useRef, useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { api, data, type Arrival, type Intake } from "../api/client";
import { broughtIn, intakeQuery } from "../api/queries";
import { Notice } from "../ui/Notice";
import { counted, moment } from "../ui/words";
import { asked, begunFrom, type Facts } from "../facts/facts";
import { Answers } from "./Answers";
import { DropZone } from "./DropZone";
import { GroupPart, type Waiting } from "./GroupPart";
import { gathered, methodFrom, missing, type Gathered, type Placed } from "./pairing";

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

/** When the first of the files that wait is forgotten. */
const firstForgotten = (arrivals: readonly Arrival[]) =>
  arrivals.map((one) => one.kept_until).sort()[0] ?? "";

/** Did everything arrive, and does it fit? */
function Table({ intake }: { intake: Intake }) {
  const client = useQueryClient();
  const job = intake.job.id;
  const [placed, setPlaced] = useState<Placed>({});
  const [names, setNames] = useState<Record<string, string>>({});
  const [facts, setFacts] = useState<Record<number, Facts>>({});
  const [storing, setStoring] = useState<{ key: string; at: number; of: number } | null>(null);
  const [trouble, setTrouble] = useState<Record<string, string>>({});
  const [done, setDone] = useState<{ name: string; picture: number }[]>([]);
  const cancelled = useRef(false);

  const again = () => client.invalidateQueries({ queryKey: ["intake", job] });
  const [search] = useSearchParams();
  const to = intake.job.pictures.find((one) => String(one.id) === search.get("picture"));
  const groups = useMemo(
    () => gathered(intake, placed, names, to?.id ?? null),
    [intake, placed, names, to?.id],
  );
  const factsOf = (arrival: Arrival, group: Gathered): Facts => {
    const guess = methodFrom(arrival.words, group.name);
    const known = intake.methods.find(
      (method) => method.name.toLowerCase() === guess.toLowerCase(),
    );
    return facts[arrival.id] ?? begunFrom(known, guess);
  };
  // Once for all: a folder of hundreds has as many results of one method.
  const byMethod = new Map<string, Waiting[]>();
  for (const group of groups)
    for (const arrival of group.results) {
      const { method } = factsOf(arrival, group);
      byMethod.set(method, [...(byMethod.get(method) ?? []), { arrival, group }]);
    }
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
  return (
    <DropZone
      job={job}
      unusable={unusable}
      bare={groups.length === 0 && done.length === 0}
      onArrived={() => void again()}
      head={
        <div className="mb-2 flex items-baseline gap-4">
          <h1 className="text-xl">Bring in: {intake.job.name}</h1>
          {to && (
            <span>
              a result for <Link to={`/pictures/${to.id}`}>{to.name}</Link>
            </span>
          )}
          <span role="status">
            {intake.arrivals.length === 0
              ? "nothing waits"
              : `${counted(intake.arrivals.length, "file")} waiting, nothing stored yet; kept until ${moment(firstForgotten(intake.arrivals))}`}
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
      }
    >
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
          byMethod={byMethod}
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
    </DropZone>
  );
}
