import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { upload, type ApiError, type Slip } from "../api/client";
import { useSlip, type DryRun, type Followed } from "../api/slips";
import { DropArea } from "../ui/DropArea";
import { OutcomeShape } from "../ui/outcome";
import { elsewhereWords, placeWords } from "./Elsewhere";

type Said = Record<number, string[]>;

/** A retoucher's answer: the file, how long it took, what was followed; looked at first, if wanted. */
export function Answer({ slip }: { slip: Slip }) {
  const client = useQueryClient();
  const { handIn, stored } = useSlip(slip.id);
  const [minutes, setMinutes] = useState("");
  const [said, setSaid] = useState<Said>({});
  const [part, setPart] = useState<number | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const stop = useRef<AbortController | null>(null);
  const followed: Followed[] = Object.entries(said).map(([region, changes]) => ({
    region: Number(region),
    changes,
  }));
  const give = async (file: File | undefined, dry: boolean) => {
    if (!file) return;
    setTrouble(null);
    setPart(0);
    stop.current = new AbortController();
    const fields: Record<string, string> = { dry: String(dry) };
    if (minutes) fields.seconds = String(Number(minutes) * 60);
    if (followed.length > 0) fields.followed = JSON.stringify(followed);
    try {
      stored(
        await upload<Slip>(
          `/api/slips/${slip.id}/result/`,
          file,
          fields,
          setPart,
          stop.current.signal,
        ),
      );
      void client.invalidateQueries({ queryKey: ["slips"] });
    } catch (error) {
      setTrouble((error as ApiError).message);
    }
    setPart(null);
  };
  const returning = slip.returning;
  if (returning?.state === "working")
    return (
      <p role="status" className="mt-4 flex items-center gap-3">
        {returning.name} is being {returning.dry ? "examined as your answer would be" : "looked at"}{" "}
        <progress
          max={1}
          value={returning.progress}
          aria-label="looking at the result"
          style={{ accentColor: "#000" }}
        />
      </p>
    );
  const rehearsed = part === null && returning?.dry && returning.report ? returning.report : null;
  return (
    <div className="mt-4" role="group" aria-label="Your answer">
      {returning?.state === "refused" && part === null && (
        <p role="alert" className="m-0 w-full">
          <strong>{returning.reason}</strong>{" "}
          {returning.moved === null ? (
            "Nothing of it was stored; give another file."
          ) : (
            <Link to={`/slips/${returning.moved}`}>to that slip</Link>
          )}
        </p>
      )}
      <FollowedBoxes slip={slip} said={said} onChange={setSaid} />
      {rehearsed && (
        <Rehearsal
          slip={slip}
          name={returning?.name ?? ""}
          report={rehearsed}
          busy={handIn.isPending}
          onHandIn={() =>
            handIn.mutate(followed, { onError: (error) => setTrouble(error.message) })
          }
        />
      )}
      <div className="mt-2 flex flex-wrap items-center gap-3">
        <label>
          minutes it took{" "}
          <input
            className="field w-[80px]"
            type="number"
            min={0}
            value={minutes}
            onChange={(event) => setMinutes(event.target.value)}
          />
        </label>
        <Give
          words="try a result first"
          busy={part !== null}
          onFile={(file) => void give(file, true)}
        />
        <Give
          words="return a result"
          busy={part !== null}
          onFile={(file) => void give(file, false)}
        />
        {part !== null && (
          <>
            <progress
              max={1}
              value={part}
              aria-label="sending the result"
              style={{ accentColor: "#000" }}
            />
            <button type="button" className="plain" onClick={() => stop.current?.abort()}>
              cancel
            </button>
          </>
        )}
        {trouble && (
          <p role="alert" className="m-0 w-full">
            <strong>{trouble}</strong>
          </p>
        )}
      </div>
    </div>
  );
}

/** A result for whichever of one's slips it answers. */
export function GiveAny() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [part, setPart] = useState<number | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const give = async (file: File | undefined) => {
    if (!file) return;
    setTrouble(null);
    setPart(0);
    try {
      const slip = await upload<Slip>("/api/slips/result/", file, {}, setPart);
      void client.invalidateQueries({ queryKey: ["slips"] });
      void navigate(`/slips/${slip.id}`);
    } catch (error) {
      setTrouble((error as ApiError).message);
    }
    setPart(null);
  };
  return (
    <DropArea label="A result" className="mb-4 p-3" onFiles={(files) => void give(files[0])}>
      <div className="flex items-center gap-4">
        <span className="flex-1">
          Drop a result here: what it shows says which of your slips it answers, and it is handed in
          there.
        </span>
        {part !== null && (
          <progress
            max={1}
            value={part}
            aria-label="sending the result"
            style={{ accentColor: "#000" }}
          />
        )}
        <Give words="choose a result" busy={part !== null} onFile={(file) => void give(file)} />
      </div>
      {trouble && (
        <p role="alert" className="m-0">
          <strong>{trouble}</strong>
        </p>
      )}
    </DropArea>
  );
}

function Give({
  words,
  busy,
  onFile,
}: {
  words: string;
  busy: boolean;
  onFile: (file: File | undefined) => void;
}) {
  return (
    <label className="plain cursor-pointer focus-within:outline-3">
      {words}
      <input
        type="file"
        className="sr-only"
        accept="image/png,image/jpeg,image/tiff"
        disabled={busy}
        onChange={(event) => {
          onFile(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
    </label>
  );
}

/** What was followed of what the slip asks for. */
function FollowedBoxes({
  slip,
  said,
  onChange,
}: {
  slip: Slip;
  said: Said;
  onChange: (said: Said) => void;
}) {
  const words = (what: string) => slip.changes.find((one) => one.what === what)?.words ?? what;
  const asked = slip.regions.filter((region) => region.changes.length > 0);
  if (asked.length === 0) return null;
  return (
    <fieldset className="m-0 border-0 p-0">
      <legend>what you followed</legend>
      {asked.map((region) => (
        <p key={region.region} className="m-0 flex flex-wrap gap-x-4 gap-y-1 py-0.5">
          <span>
            {region.number} {region.name}:
          </span>
          {region.changes.map(({ what }) => {
            const now = said[region.region] ?? [];
            return (
              <label key={what} className="flex items-center gap-1">
                <input
                  type="checkbox"
                  checked={now.includes(what)}
                  onChange={(event) =>
                    onChange({
                      ...said,
                      [region.region]: event.target.checked
                        ? [...now, what]
                        : now.filter((one) => one !== what),
                    })
                  }
                />
                {words(what)}
              </label>
            );
          })}
        </p>
      ))}
    </fieldset>
  );
}

/** What the recheck would say of the file that was tried. */
function Rehearsal({
  slip,
  name,
  report,
  busy,
  onHandIn,
}: {
  slip: Slip;
  name: string;
  report: DryRun;
  busy: boolean;
  onHandIn: () => void;
}) {
  return (
    <section className="mt-2 border p-2" aria-label="What the recheck would say">
      <p className="m-0">
        <strong>{name}</strong>, examined as your answer would be; nothing was handed in.
      </p>
      <ul className="my-1 list-none p-0">
        {report.regions.map((one) => {
          const region = slip.regions.find((part) => part.region === one.region);
          return (
            <li key={one.region} className="flex items-center gap-2">
              <OutcomeShape word={one.word} /> {region?.number} {region?.name}: {one.word}
              {one.findings.length > 0 && (
                <span className="small">
                  {one.findings.map((finding) => `${finding.kind}, ${finding.word}`).join("; ")}
                </span>
              )}
            </li>
          );
        })}
        <li>
          {report.elsewhere.same ? (
            elsewhereWords(report.elsewhere)
          ) : (
            <strong>
              {elsewhereWords(report.elsewhere)}
              {report.elsewhere.places[0] && `: ${placeWords(report.elsewhere.places[0].bbox)}`}
            </strong>
          )}
        </li>
      </ul>
      <button type="button" className="plain" disabled={busy} onClick={onHandIn}>
        hand it in as it is
      </button>
    </section>
  );
}
