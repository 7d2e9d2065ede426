import type { Change, Slip, SlipRegion } from "../api/client";
import { KindPicture, SeverityStrokes } from "../ui/marks";
import { OutcomeShape } from "../ui/outcome";
import { number } from "../ui/words";
import { BeforeAfter } from "./BeforeAfter";
import { SentPicture } from "./SentPicture";
import { Setting } from "./Setting";
import { settingsWords, withSetting } from "./changes";

export type RegionDraft = { changes: Change[]; note: string };

/** One region of a slip: what is wrong with it, what to change, what became of it. */
export function RegionPart({
  slip,
  region,
  open,
  draft,
  onChange,
  onLeaveOff,
}: {
  slip: Slip;
  region: SlipRegion;
  open: boolean;
  draft: RegionDraft;
  /** Null where it cannot be left off: the slip was sent, or it is the last. */
  onLeaveOff: (() => void) | null;
  onChange: (draft: RegionDraft) => void;
}) {
  const words = (what: string) => slip.changes.find((one) => one.what === what)?.words ?? what;
  const free = slip.changes.filter(
    (one) => !draft.changes.some((change) => change.what === one.what),
  );
  const set = (at: number, change: Change) =>
    onChange({
      ...draft,
      changes: draft.changes.map((one, place) => (place === at ? change : one)),
    });
  return (
    <section
      className={`rule-top grid gap-5 py-3 ${slip.returned_image ? "grid-cols-1" : "grid-cols-[430px_minmax(0,1fr)]"}`}
      aria-label={`region ${region.number}, ${region.name}`}
    >
      {slip.returned_image ? (
        <BeforeAfter slip={slip} region={region} />
      ) : (
        <SentPicture
          region={region}
          changes={draft.changes}
          onChanges={open ? (changes) => onChange({ ...draft, changes }) : null}
        />
      )}
      <div>
        <h2 className="flex items-center gap-2 text-[1rem]">
          {region.number} {region.name}: {region.ruling}
          {region.attempt !== slip.attempt && ` in attempt ${region.attempt_number}`}
          {onLeaveOff && (
            <button type="button" className="quiet ml-auto font-normal" onClick={onLeaveOff}>
              leave it off
            </button>
          )}
          {region.outcome && (
            <span className="ml-auto flex items-center gap-2 font-normal">
              <OutcomeShape word={region.outcome} /> <strong>{region.outcome}</strong>
            </span>
          )}
        </h2>
        <h3 className="mt-2 text-[0.9375rem]">What is wrong</h3>
        {region.flaws.length === 0 && (
          <p className="m-0">No finding was confirmed; the note says it.</p>
        )}
        <ul className="m-0 list-none p-0">
          {region.flaws.map((flaw, place) => (
            <li key={place} className="flex items-start gap-2 py-[2px]">
              <KindPicture kind={flaw.kind} />
              <span className="flex-1">
                {!slip.returned_image && region.flaws.length > 1 && `${place + 1} `}
                {flaw.kind}, {flaw.word} <SeverityStrokesInline word={flaw.word} />: {flaw.group}
                {flaw.words && ` “${flaw.words}”`}
                <span className="block small">
                  reads {number(flaw.value)} where {number(flaw.low)} to {number(flaw.high)} is
                  natural ({flaw.unit})
                </span>
              </span>
              {flaw.outcome && (
                <span className="flex items-center gap-1 whitespace-nowrap">
                  <OutcomeShape word={flaw.outcome} /> {flaw.outcome}
                </span>
              )}
            </li>
          ))}
          {region.new.map((kind) => (
            <li key={kind} className="flex items-center gap-2 py-[2px]">
              <KindPicture kind={kind} />
              <span className="flex-1">{kind}</span>
              <span className="flex items-center gap-1">
                <OutcomeShape word="new flaw" /> new flaw
              </span>
            </li>
          ))}
        </ul>
        <h3 className="mt-2 text-[0.9375rem]">What to change</h3>
        {draft.changes.length === 0 && <p className="m-0">Nothing is suggested.</p>}
        <ul className="m-0 list-none p-0">
          {draft.changes.map((change, at) => (
            <li key={change.what} className="flex items-center gap-2 py-[2px]">
              <span className="flex-1">
                {words(change.what)}
                {!open && settingsWords(change) ? `: ${settingsWords(change)}` : ""}
                {change.why && <span className="block small">{change.why}</span>}
              </span>
              <HelpedWords region={region} what={change.what} />
              {open && (
                <Setting
                  change={change}
                  onChange={(value) => set(at, value)}
                  label={`${words(change.what)}, region ${region.number}`}
                />
              )}
              {open && (
                <button
                  type="button"
                  className="plain px-2"
                  aria-label={`leave out: ${words(change.what)}`}
                  onClick={() =>
                    onChange({
                      ...draft,
                      changes: draft.changes.filter((_, place) => place !== at),
                    })
                  }
                >
                  leave out
                </button>
              )}
            </li>
          ))}
        </ul>
        {open && free.length > 0 && (
          <label className="mt-1 block">
            also{" "}
            <select
              className="field"
              value=""
              onChange={(event) =>
                event.target.value &&
                onChange({ ...draft, changes: [...draft.changes, withSetting(event.target.value)] })
              }
            >
              <option value="">add a change …</option>
              {free.map((one) => (
                <option key={one.what} value={one.what}>
                  {one.words}
                </option>
              ))}
            </select>
          </label>
        )}
        {open ? (
          <label className="mt-2 block">
            in your own words
            <textarea
              className="field mt-1 block w-full"
              rows={2}
              value={draft.note}
              onChange={(event) => onChange({ ...draft, note: event.target.value })}
            />
          </label>
        ) : (
          region.note && (
            <p className="mb-0">
              <strong>In their own words:</strong> {region.note}
            </p>
          )
        )}
      </div>
    </section>
  );
}

function SeverityStrokesInline({ word }: { word: string }) {
  return (
    <span className="inline-block align-middle">
      <SeverityStrokes word={word} />
    </span>
  );
}

/** Whether a change was followed, and whether that helped. */
function HelpedWords({ region, what }: { region: SlipRegion; what: string }) {
  const one = region.helped.find((helped) => helped.what === what);
  if (!one) {
    return region.followed?.includes(what) ? <span className="small">followed</span> : null;
  }
  const followed = one.followed ? "followed" : "not followed";
  return (
    <span className="small whitespace-nowrap">
      {one.helped === null || !one.followed
        ? followed
        : `${followed}: ${one.helped ? "it helped" : "it did not help"}`}
    </span>
  );
}
