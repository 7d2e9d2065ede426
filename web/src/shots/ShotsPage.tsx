import { useQuery } from "@tanstack/react-query";
import { useRef, useState, type FormEvent } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { ApiError } from "../api/client";
import { shotsQuery, useShots, type Footage, type ShotsOfJob } from "../api/shots";
import { sendFootage } from "../intake/sending";
import { DropArea } from "../ui/DropArea";
import { Notice } from "../ui/Notice";
import { Trouble } from "../ui/Trouble";
import { counted } from "../ui/words";

type Coming = { key: number; name: string; part: number; words: string; stop: AbortController };

/** A job's shots, and footage on its way to be part of one. */
export function ShotsPage() {
  const job = Number(useParams().id);
  const found = useQuery(shotsQuery(job));
  const shots = useShots(job);
  if (found.isPending) return <Notice title="Looking for the shots …" busy />;
  if (!found.data)
    return (
      <Notice title="The shots cannot be shown" alert>
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
      <div className="mb-2 flex items-baseline gap-4">
        <h1 className="text-xl">Shots</h1>
        <span className="ml-auto">
          <Link to={`/jobs/${job}/sheet`}>the job</Link>
        </span>
      </div>
      <Drop job={job} onArrived={shots.again} />
      <Waiting job={job} found={data} />
      {data.shots.length === 0 ? (
        <Notice inside title="No shots yet">
          Drop the original and its results: videos (MP4, QuickTime, Matroska, AVI), or ZIPs of
          numbered PNG, TIFF or JPEG pictures. Masks go along as a ZIP of PNGs, numbered as the
          frames are; one frame’s is enough.
        </Notice>
      ) : (
        <ul className="m-0 list-none p-0" aria-label="Shots">
          {data.shots.map((one) => (
            <li key={one.id} className="rule-top flex items-baseline gap-4 py-2">
              <Link className="text-lg" to={`/shots/${one.id}`}>
                {String(one.number).padStart(2, "0")} {one.name}
              </Link>
              <span>
                {counted(one.frames, "frame")}, {counted(one.attempts, "attempt")}; {one.state}
              </span>
            </li>
          ))}
        </ul>
      )}
    </main>
  );
}

function Drop({ job, onArrived }: { job: number; onArrived: () => void }) {
  const [coming, setComing] = useState<Coming[]>([]);
  const picker = useRef<HTMLInputElement>(null);
  const serial = useRef(0);
  const mark = (key: number, change: Partial<Coming>) =>
    setComing((old) => old.map((one) => (one.key === key ? { ...one, ...change } : one)));
  const take = async (files: readonly File[]) => {
    const fresh = files.map((file) => ({
      file,
      row: {
        key: (serial.current += 1),
        name: file.name,
        part: 0,
        words: "",
        stop: new AbortController(),
      },
    }));
    setComing((old) => [...old.filter((one) => !one.words), ...fresh.map((one) => one.row)]);
    for (const { file, row } of fresh) {
      if (row.stop.signal.aborted) continue;
      try {
        await sendFootage(job, file, (part) => mark(row.key, { part }), row.stop.signal);
        setComing((old) => old.filter((one) => one.key !== row.key));
      } catch (error) {
        mark(row.key, { words: (error as ApiError).message });
      }
      onArrived();
    }
  };
  return (
    <DropArea label="Footage on its way" className="mb-3 p-3" onFiles={(files) => void take(files)}>
      <input
        ref={picker}
        type="file"
        multiple
        className="sr-only"
        aria-label="choose footage"
        onChange={(event) => {
          void take([...(event.target.files ?? [])]);
          event.target.value = "";
        }}
      />
      <button type="button" className="plain" onClick={() => picker.current?.click()}>
        choose footage
      </button>{" "}
      or drop it here.
      <ul className="m-0 list-none p-0">
        {coming.map((one) => (
          <li key={one.key} role={one.words ? "alert" : undefined}>
            {one.words ? (
              <strong>{one.words}</strong>
            ) : (
              <>
                <progress max={1} value={one.part} className="mr-2 h-[6px] w-[120px]" />
                {one.name}{" "}
                <button type="button" className="quiet" onClick={() => one.stop.abort()}>
                  cancel
                </button>
              </>
            )}
          </li>
        ))}
      </ul>
    </DropArea>
  );
}

function Waiting({ job, found }: { job: number; found: ShotsOfJob }) {
  const shots = useShots(job);
  const paired = new Set(
    found.families
      .filter((one) => one.original !== null)
      .flatMap((one) => [one.original, one.masks, ...one.results]),
  );
  const rest = found.waiting.filter((one) => !paired.has(one.id));
  return (
    <>
      {found.families
        .filter((one) => one.original !== null)
        .map((one) => (
          <Family key={`${one.name} ${one.original}`} job={job} found={found} family={one} />
        ))}
      {rest.length > 0 && (
        <ul className="m-0 mb-3 list-none p-0" aria-label="Footage that waits">
          {rest.map((one) => (
            <Alone
              key={one.id}
              one={one}
              found={found}
              onAdd={(shot, method) => shots.add.mutate({ shot, footage: one.id, method })}
              onForget={() => shots.forget.mutate(one.id)}
            />
          ))}
        </ul>
      )}
      <Trouble error={shots.add.error ?? shots.forget.error} />
    </>
  );
}

function Alone({
  one,
  found,
  onAdd,
  onForget,
}: {
  one: Footage;
  found: ShotsOfJob;
  onAdd: (shot: number, method: string) => void;
  onForget: () => void;
}) {
  const [shot, setShot] = useState<number | null>(null);
  const [method, setMethod] = useState("");
  const chosen = shot ?? found.shots[0]?.id ?? null;
  return (
    <li className="rule-top flex flex-wrap items-center gap-3 py-1">
      <span className="min-w-[12rem]">{one.name}</span>
      {one.state === "refused" ? (
        <strong>{one.reason}</strong>
      ) : one.state === "reading" ? (
        <span role="status">is being read …</span>
      ) : (
        <span className="small">{one.facts}</span>
      )}
      {one.state === "ready" && one.holds === "frames" && chosen !== null && (
        <form
          className="flex items-center gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            if (method.trim()) onAdd(chosen, method);
          }}
        >
          an attempt at
          <select
            className="quiet-field"
            aria-label={`the shot that ${one.name} is an attempt at`}
            value={chosen}
            onChange={(event) => setShot(Number(event.target.value))}
          >
            {found.shots.map((row) => (
              <option key={row.id} value={row.id}>
                {row.name}
              </option>
            ))}
          </select>
          <input
            className="field w-[11rem]"
            aria-label={`the method that made ${one.name}`}
            placeholder="method"
            maxLength={120}
            value={method}
            onChange={(event) => setMethod(event.target.value)}
          />
          <button type="submit" className="plain" aria-disabled={!method.trim()}>
            bring in
          </button>
        </form>
      )}
      <button type="button" className="quiet ml-auto" onClick={onForget}>
        forget
      </button>
    </li>
  );
}

/** What belongs together by its names, before it is made a shot. */
function Family({
  job,
  found,
  family,
}: {
  job: number;
  found: ShotsOfJob;
  family: ShotsOfJob["families"][number];
}) {
  const navigate = useNavigate();
  const { make } = useShots(job);
  const [name, setName] = useState(family.name);
  const [methods, setMethods] = useState<Record<number, string>>({});
  const [left, setLeft] = useState<Record<number, boolean>>({});
  const of = (id: number | null) => found.waiting.find((one) => one.id === id);
  const original = of(family.original);
  const masks = of(family.masks);
  const results = family.results.map(of).filter((one): one is Footage => one !== undefined);
  const kept = results.filter((one) => !left[one.id]);
  const missing = kept.find((one) => !methods[one.id]?.trim());
  if (!original) return null;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (missing || !name.trim() || make.isPending) return;
    make.mutate(
      {
        name,
        original: original.id,
        masks: masks?.id ?? null,
        attempts: kept.map((one) => ({
          footage: one.id,
          method: methods[one.id] ?? "",
          maker: "",
        })),
      },
      { onSuccess: (shot) => void navigate(`/shots/${shot.id}`) },
    );
  };
  return (
    <form className="mb-3 border p-3" style={{ borderColor: "var(--line)" }} onSubmit={submit}>
      <label className="flex items-center gap-2">
        a shot named
        <input
          className="field w-[18rem]"
          maxLength={160}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      </label>
      <table className="facts my-2">
        <tbody>
          <tr>
            <th scope="row">original</th>
            <td>
              {original.name}: {original.facts}
            </td>
          </tr>
          {masks && (
            <tr>
              <th scope="row">masks</th>
              <td>
                {masks.name}: {masks.facts}
              </td>
            </tr>
          )}
          {results.map((one) => (
            <tr key={one.id}>
              <th scope="row">result</th>
              <td>
                <label>
                  <input
                    type="checkbox"
                    checked={!left[one.id]}
                    onChange={(event) => setLeft({ ...left, [one.id]: !event.target.checked })}
                  />{" "}
                  {one.name}: {one.facts}
                </label>{" "}
                {!left[one.id] && (
                  <input
                    className="field w-[11rem]"
                    aria-label={`the method that made ${one.name}`}
                    placeholder="method"
                    maxLength={120}
                    value={methods[one.id] ?? ""}
                    onChange={(event) => setMethods({ ...methods, [one.id]: event.target.value })}
                  />
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <button type="submit" className="plain" aria-disabled={Boolean(missing) || !name.trim()}>
        make the shot
      </button>
      {missing && <span className="small"> say which method made {missing.name}</span>}
      <Trouble error={make.error} />
    </form>
  );
}
