import { useQuery } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";
import { Link, useNavigate } from "react-router";
import type { Job } from "../api/client";
import { colleaguesQuery, jobsQuery, sessionQuery, useMakeJob } from "../api/queries";
import { Notice } from "../ui/Notice";
import { counted, until } from "../ui/words";

function Row({ job }: { job: Job }) {
  return (
    <li className="rule-top grid grid-cols-[1fr_260px_200px] items-center gap-4 py-2">
      <span>
        <span className="block text-lg">
          {job.role === "supervisor" ? (
            <Link to={`/jobs/${job.id}/sheet`}>{job.name}</Link>
          ) : (
            job.name
          )}
        </span>
        {job.client}
        {job.client ? ", " : ""}
        {until(job.deadline)}
      </span>
      <span>
        {counted(job.pictures.length, "picture")}; {job.sizes.map((size) => size.name).join(", ")}
      </span>
      <span>
        {job.role === "supervisor" ? (
          <>
            <Link className="block py-1" to={`/jobs/${job.id}`}>
              bring pictures in{job.waiting ? ` (${counted(job.waiting, "file")} waiting)` : ""}
            </Link>
            <Link className="block py-1" to={`/jobs/${job.id}/deliveries`}>
              signed off and delivered
            </Link>
          </>
        ) : (
          job.role
        )}
      </span>
    </li>
  );
}

/** The jobs one takes part in, and making another. */
export function JobsPage() {
  const jobs = useQuery(jobsQuery);
  const session = useQuery(sessionQuery);
  const [making, setMaking] = useState(false);
  if (jobs.isPending) return <Notice title="Looking for the jobs …" busy />;
  if (!jobs.data)
    return (
      <Notice title="The jobs cannot be shown" alert>
        {jobs.error?.message}
        <p>
          <button type="button" className="plain" onClick={() => void jobs.refetch()}>
            try again
          </button>
        </p>
      </Notice>
    );
  return (
    <main className="mx-auto max-w-[1080px] px-6 py-4">
      <div className="mb-3 flex items-baseline justify-between">
        <h1 className="text-xl">Jobs</h1>
        {session.data?.makes_jobs && !making && (
          <button type="button" className="plain" onClick={() => setMaking(true)}>
            make a job
          </button>
        )}
      </div>
      {making && <NewJob onClose={() => setMaking(false)} />}
      {jobs.data.length === 0 && !making ? (
        <Notice inside title="No jobs yet">
          {session.data?.makes_jobs
            ? "Make the first one; then drop its pictures in."
            : "Somebody who makes jobs has to take you into one."}
        </Notice>
      ) : (
        <ul className="m-0 list-none p-0">
          {jobs.data.map((job) => (
            <Row key={job.id} job={job} />
          ))}
        </ul>
      )}
    </main>
  );
}

type SizeDraft = {
  name: string;
  width: string;
  height: string;
  unit: "mm" | "px";
  dpi: string;
  distance: string;
};
const firstSize: SizeDraft = {
  name: "",
  width: "420",
  height: "594",
  unit: "mm",
  dpi: "150",
  distance: "700",
};
export const specOf = (size: SizeDraft) =>
  `${size.width}${size.height ? `x${size.height}` : ""}${size.unit}@${size.dpi}dpi@${size.distance}mm`;

function NewJob({ onClose }: { onClose: () => void }) {
  const navigate = useNavigate();
  const make = useMakeJob();
  const colleagues = useQuery(colleaguesQuery);
  const [name, setName] = useState("");
  const [clientName, setClientName] = useState("");
  const [deadline, setDeadline] = useState("");
  const [use, setUse] = useState<"paying client" | "private">("paying client");
  const [sizes, setSizes] = useState<SizeDraft[]>([firstSize]);
  const [people, setPeople] = useState<Record<number, boolean>>({});
  const submit = (event: FormEvent) => {
    event.preventDefault();
    make.mutate(
      {
        name,
        client: clientName,
        deadline: deadline ? new Date(deadline).toISOString() : null,
        use,
        sizes: sizes.map((size) => ({ name: size.name, spec: specOf(size) })),
        people: (colleagues.data ?? [])
          .filter((one) => people[one.id])
          .map((one) => ({ person: one.id, role: one.role })),
      },
      {
        onSuccess: (job) => {
          void navigate(`/jobs/${job.id}`);
        },
      },
    );
  };
  const set = (at: number, part: Partial<SizeDraft>) =>
    setSizes((old) => old.map((one, place) => (place === at ? { ...one, ...part } : one)));
  return (
    <form
      onSubmit={submit}
      className="mb-5 border p-4"
      style={{ borderColor: "var(--line)" }}
      aria-label="A new job"
    >
      <div className="grid grid-cols-4 gap-4">
        <label>
          name
          <input
            className="field block w-full"
            required
            maxLength={160}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <label>
          client
          <input
            className="field block w-full"
            maxLength={160}
            value={clientName}
            onChange={(event) => setClientName(event.target.value)}
          />
        </label>
        <label>
          deadline
          <input
            className="field block w-full"
            type="datetime-local"
            value={deadline}
            onChange={(event) => setDeadline(event.target.value)}
          />
        </label>
        <span>
          <span id="job-for">for</span>
          <select
            aria-labelledby="job-for"
            className="field block w-full"
            value={use}
            onChange={(event) => setUse(event.target.value as typeof use)}
          >
            <option>paying client</option>
            <option>private</option>
          </select>
        </span>
      </div>
      <fieldset className="mt-3 border-0 p-0">
        <legend>what it is used for; the first is judged for</legend>
        {sizes.map((size, at) => (
          <div
            key={at}
            className="mt-1 flex flex-wrap items-center gap-2"
            role="group"
            aria-label={`use ${at + 1}`}
          >
            <label>
              called{" "}
              <input
                className="field w-[170px]"
                required
                maxLength={80}
                value={size.name}
                placeholder="wall calendar"
                onChange={(event) => set(at, { name: event.target.value })}
              />
            </label>
            <label>
              <span className="sr-only">width</span>
              <input
                className="field w-[76px]"
                type="number"
                min={1}
                required
                value={size.width}
                onChange={(event) => set(at, { width: event.target.value })}
              />
            </label>{" "}
            ×
            <label>
              <span className="sr-only">height</span>
              <input
                className="field w-[76px]"
                type="number"
                min={1}
                value={size.height}
                onChange={(event) => set(at, { height: event.target.value })}
              />
            </label>
            <label>
              <span className="sr-only">unit</span>
              <select
                className="field"
                value={size.unit}
                onChange={(event) => set(at, { unit: event.target.value as "mm" | "px" })}
              >
                <option value="mm">mm</option>
                <option value="px">pixels</option>
              </select>
            </label>
            <label>
              at{" "}
              <input
                className="field w-[76px]"
                type="number"
                min={20}
                max={2400}
                required
                value={size.dpi}
                onChange={(event) => set(at, { dpi: event.target.value })}
              />{" "}
              dpi
            </label>
            <label>
              seen from{" "}
              <input
                className="field w-[84px]"
                type="number"
                min={50}
                required
                value={size.distance}
                onChange={(event) => set(at, { distance: event.target.value })}
              />{" "}
              mm
            </label>
            {sizes.length > 1 && (
              <button
                type="button"
                className="plain"
                onClick={() => setSizes((old) => old.filter((_, place) => place !== at))}
              >
                leave out
              </button>
            )}
          </div>
        ))}
        <button
          type="button"
          className="plain mt-2"
          onClick={() => setSizes((old) => [...old, firstSize])}
        >
          another use
        </button>
      </fieldset>
      {(colleagues.data?.length ?? 0) > 0 && (
        <fieldset className="mt-3 border-0 p-0">
          <legend>who takes part</legend>
          {colleagues.data?.map((one) => (
            <label key={one.id} className="mr-5">
              <input
                type="checkbox"
                checked={people[one.id] ?? false}
                onChange={(event) =>
                  setPeople((old) => ({ ...old, [one.id]: event.target.checked }))
                }
              />{" "}
              {one.name}, {one.role}
            </label>
          ))}
        </fieldset>
      )}
      {make.isError && (
        <p role="alert" className="mb-0">
          <strong>{make.error.message}</strong>
        </p>
      )}
      <div className="mt-4 flex gap-3">
        <button type="submit" className="plain" disabled={make.isPending}>
          make the job
        </button>
        <button type="button" className="plain" onClick={onClose}>
          leave it
        </button>
      </div>
    </form>
  );
}
