import { useRef, useState, type DragEvent, type ReactNode } from "react";
import { api, data, type ApiError, type Arrival } from "../api/client";
import { Notice } from "../ui/Notice";
import { counted } from "../ui/words";
import { chosen, dropped, readable, type Named } from "./dropped";
import { megabytes } from "./megabytes";
import { sendInParts } from "./sending";

/** Files on their way at a time. */
const AT_ONCE = 2;
type Coming = {
  key: number;
  file: File;
  name: string;
  part: number;
  state: "waiting" | "sending" | "refused" | "cancelled";
  words: string;
  stop: AbortController;
};

/** The page that files are dropped on, with what is on its way. It keeps that to itself: what waits below, which is long, is not drawn anew
 * with every part of a file that went over. */
export function DropZone({
  job,
  unusable,
  bare,
  onArrived,
  head,
  children,
}: {
  job: number;
  /** Arrivals that turned out to be of no use. */
  unusable: readonly Arrival[];
  /** Whether nothing is there yet. */
  bare: boolean;
  onArrived: () => void;
  head: ReactNode;
  children: ReactNode;
}) {
  const [coming, setComing] = useState<Coming[]>([]);
  const [over, setOver] = useState(false);
  const [leftOut, setLeftOut] = useState(0);
  const queue = useRef<Coming[]>([]);
  const running = useRef(0);
  const serial = useRef(0);
  const picker = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
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
          onArrived();
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
      {head}
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
                <span>{one.part >= 1 ? "reading" : megabytes(one.file.size)}</span>
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
                ).finally(onArrived);
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
      {children}
      {bare && moving.length === 0 && (
        <Notice inside title="Nothing has arrived yet">
          Each file is read as it arrives; what cannot be used is refused at once, with the reason.
        </Notice>
      )}
    </main>
  );
}
