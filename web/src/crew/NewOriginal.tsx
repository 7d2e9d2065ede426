import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Shapes } from "../api/client";
import { renewalQuery, useRenew } from "../api/renewing";
import { sendInParts } from "../intake/sending";
import { Dialog } from "../ui/Dialog";
import { Trouble } from "../ui/Trouble";
import { counted } from "../ui/words";

type Named = { id: number; name: string };

/** Another original for a picture: which regions it touches is asked before it is taken. */
export function NewOriginal({
  job,
  picture,
  onClose,
}: {
  job: number;
  /** Null: none is asked for. */
  picture: Named | null;
  onClose: () => void;
}) {
  return (
    <Dialog
      open={picture !== null}
      onClose={onClose}
      title={picture ? `A new original for ${picture.name}` : ""}
    >
      {picture && <SendFile key={picture.id} job={job} picture={picture} onDone={onClose} />}
    </Dialog>
  );
}

function SendFile({ job, picture, onDone }: { job: number; picture: Named; onDone: () => void }) {
  const [part, setPart] = useState(0);
  const [stop] = useState(() => new AbortController());
  const send = useMutation({
    mutationFn: (file: File) => sendInParts(job, file, file.name, setPart, stop.signal),
  });
  if (send.data) return <Touched picture={picture} arrival={send.data.id} onDone={onDone} />;
  return (
    <>
      <p className="mt-0">
        It must lie on the former one pixel by pixel: graded otherwise, cleaned, developed anew. The
        former one is kept. What was ruled stands wherever the new one touches nothing.
      </p>
      <input
        type="file"
        aria-label="the new original"
        accept=".jpg,.jpeg,.png,.tif,.tiff"
        disabled={send.isPending}
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) send.mutate(file);
        }}
      />
      {send.isPending && (
        <progress className="ml-2" max={1} value={part} aria-label="how far it is sent" />
      )}
      <Trouble error={send.error} />
    </>
  );
}

type Region = Shapes["TouchedOf"];

function Touched({
  picture,
  arrival,
  onDone,
}: {
  picture: Named;
  arrival: number;
  onDone: () => void;
}) {
  const found = useQuery(renewalQuery(picture.id, arrival));
  if (found.isError) return <Trouble error={found.error} />;
  if (!found.data || found.data.state === "working")
    return (
      <p role="status" className="mt-0">
        Comparing it with the former one …
      </p>
    );
  if (!found.data.fits)
    return (
      <p role="alert" className="mt-0">
        <strong>{found.data.reason}</strong>
      </p>
    );
  return (
    <Choose picture={picture} arrival={arrival} regions={found.data.regions} onDone={onDone} />
  );
}

function Choose({
  picture,
  arrival,
  regions,
  onDone,
}: {
  picture: Named;
  arrival: number;
  regions: readonly Region[];
  onDone: () => void;
}) {
  const renew = useRenew(picture.id);
  const [touched, setTouched] = useState<ReadonlySet<number>>(
    () => new Set(regions.filter((one) => one.touched).map((one) => one.region)),
  );
  const lapse = regions
    .filter((one) => touched.has(one.region))
    .reduce((sum, one) => sum + one.ruled, 0);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (!renew.isPending)
          renew.mutate({ arrival, touched: [...touched] }, { onSuccess: onDone });
      }}
    >
      <fieldset className="m-0 border-0 p-0">
        <legend>Which regions does it touch?</legend>
        <ul className="m-0 list-none p-0">
          {regions.map((one) => (
            <li key={one.region}>
              <label className="flex items-center gap-2 py-0.5">
                <input
                  type="checkbox"
                  checked={touched.has(one.region)}
                  onChange={(event) =>
                    setTouched(
                      new Set(
                        event.target.checked
                          ? [...touched, one.region]
                          : [...touched].filter((other) => other !== one.region),
                      ),
                    )
                  }
                />
                {one.number} {one.name}
                <span className="small">
                  {one.touched ? "differs there" : "the same there"}
                  {one.ruled > 0 && `; ${counted(one.ruled, "ruling")}`}
                </span>
              </label>
            </li>
          ))}
        </ul>
      </fieldset>
      <p className="small">
        {lapse > 0 ? `${counted(lapse, "ruling")} will lapse` : "No ruling lapses"}; every attempt
        is examined against it.
      </p>
      <button type="submit" className="plain" aria-disabled={renew.isPending}>
        {renew.isPending ? "taking it …" : "take it as the original"}
      </button>
      <Trouble error={renew.error} />
    </form>
  );
}
