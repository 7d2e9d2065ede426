import { useState } from "react";
import { Link } from "react-router";
import type { JobSheet } from "../api/crew";
import { usePictures } from "../api/facts";
import { counted } from "../ui/words";
import { Trouble } from "../ui/Trouble";
import { NewOriginal } from "./NewOriginal";

type Stands = JobSheet["pictures"][number];

/** A job's pictures by where they stand: renamed, withdrawn, taken in again. */
export function Pictures({ sheet }: { sheet: JobSheet }) {
  const { rename, withdraw, again } = usePictures(sheet.job.id);
  const [open, setOpen] = useState<{ id: number; what: "name" | "withdraw" } | null>(null);
  const [renewing, setRenewing] = useState<Stands | null>(null);
  const closed = { onSuccess: () => setOpen(null) };
  return (
    <section className="rule-top py-2" aria-label="Pictures">
      <h2 className="text-[1rem]">Pictures</h2>
      {sheet.pictures.length === 0 && (
        <p className="m-0">
          None yet: <Link to={`/jobs/${sheet.job.id}`}>bring pictures in</Link>.
        </p>
      )}
      <table className="border-collapse text-left">
        <tbody>
          {sheet.pictures.map((one) => (
            <tr key={one.id} className="align-baseline">
              <th scope="row" className="py-1 pr-6 font-normal">
                {open?.id === one.id && open.what === "name" ? (
                  <Rename
                    picture={one}
                    busy={rename.isPending}
                    onRename={(name) => rename.mutate({ id: one.id, name }, closed)}
                    onClose={() => setOpen(null)}
                  />
                ) : (
                  <Link to={`/pictures/${one.id}`}>
                    {String(one.number).padStart(2, "0")} {one.name}
                  </Link>
                )}
              </th>
              <td className="pr-6">{standsWords(one)}</td>
              <td>
                {open?.id === one.id && open.what === "withdraw" ? (
                  <>
                    <button
                      type="button"
                      className="plain"
                      disabled={withdraw.isPending}
                      onClick={() => withdraw.mutate(one.id, closed)}
                    >
                      yes, withdraw {one.name}
                    </button>{" "}
                    <button type="button" className="quiet" onClick={() => setOpen(null)}>
                      no
                    </button>
                  </>
                ) : (
                  <>
                    <button
                      type="button"
                      className="quiet"
                      aria-label={`rename ${one.name}`}
                      onClick={() => setOpen({ id: one.id, what: "name" })}
                    >
                      rename
                    </button>
                    <button
                      type="button"
                      className="quiet"
                      aria-label={`a new original for ${one.name}`}
                      onClick={() => setRenewing(one)}
                    >
                      new original
                    </button>
                    <button
                      type="button"
                      className="quiet"
                      aria-label={`withdraw ${one.name}`}
                      onClick={() => setOpen({ id: one.id, what: "withdraw" })}
                    >
                      withdraw
                    </button>
                  </>
                )}
              </td>
            </tr>
          ))}
          {sheet.withdrawn.map((one) => (
            <tr key={one.id} className="align-baseline">
              <th scope="row" className="py-1 pr-6 font-normal">
                {String(one.number).padStart(2, "0")} {one.name}
              </th>
              <td className="pr-6">withdrawn</td>
              <td>
                <button
                  type="button"
                  className="quiet"
                  aria-label={`take ${one.name} in again`}
                  onClick={() => again.mutate(one.id)}
                >
                  take it in again
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <NewOriginal job={sheet.job.id} picture={renewing} onClose={() => setRenewing(null)} />
      <Trouble error={rename.error ?? withdraw.error ?? again.error} />
    </section>
  );
}

function standsWords(one: Stands): string {
  const state = one.signed ? "signed off" : one.state;
  const open = one.undecided ? `, ${one.undecided} of ${counted(one.regions, "region")}` : "";
  return `${state}${open}; ${counted(one.attempts, "attempt")}`;
}

function Rename({
  picture,
  busy,
  onRename,
  onClose,
}: {
  picture: Stands;
  busy: boolean;
  onRename: (name: string) => void;
  onClose: () => void;
}) {
  const [name, setName] = useState(picture.name);
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (name.trim() && !busy) onRename(name);
      }}
    >
      <input
        className="field w-[260px]"
        aria-label={`name of ${picture.name}`}
        maxLength={160}
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <button type="submit" className="plain" aria-disabled={busy || !name.trim()}>
        keep
      </button>
      <button type="button" className="quiet" onClick={onClose}>
        leave it
      </button>
    </form>
  );
}
