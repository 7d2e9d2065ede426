import { useState } from "react";
import type { OutlinedRegion, Outlines } from "../api/outlines";
import { Key } from "../ui/Key";
import { counted, moment } from "../ui/words";
import type { Area } from "./state";

export type Backdrop = Outlines["backdrops"][number] | "";

type Props = {
  outlines: Outlines;
  chosen: number | null;
  drawing: boolean;
  mayDraw: boolean;
  busy: boolean;
  onChoose: (region: number) => void;
  onEdit: (region: OutlinedRegion) => void;
  onNew: () => void;
  onVersion: (region: OutlinedRegion, version: number) => void;
  onCorrect: (region: number, given: { name?: string; backdrop?: Backdrop }) => void;
  onSplit: (region: number) => void;
  onMerge: (regions: number[]) => void;
  onWithdraw: (region: number) => void;
  onAgain: (region: number) => void;
  onPropose: (area: Area) => void;
};

/** The picture's regions, and what attempts changed elsewhere. */
export function RegionList(props: Props) {
  const { outlines, chosen, drawing, mayDraw, busy } = props;
  const [others, setOthers] = useState<number[]>([]);
  const region = outlines.regions.find((one) => one.id === chosen);
  const merging = region ? others.filter((id) => id !== region.id) : [];
  return (
    <>
      <section aria-label="Regions">
        <h2 className="text-[1.0625rem]">Regions</h2>
        <ul className="m-0 list-none p-0">
          {outlines.regions.map((one) => (
            <li key={one.id} className="flex items-baseline gap-2 py-0.5">
              {mayDraw && region && one.id !== region.id && !drawing ? (
                <input
                  type="checkbox"
                  aria-label={`merge ${one.name} into ${region.name}`}
                  checked={others.includes(one.id)}
                  onChange={(event) =>
                    setOthers(
                      event.target.checked
                        ? [...others, one.id]
                        : others.filter((id) => id !== one.id),
                    )
                  }
                />
              ) : (
                <span className="w-[13px]" />
              )}
              <button
                type="button"
                className="quiet flex-1 text-left"
                aria-pressed={one.id === chosen}
                disabled={drawing}
                onClick={() => props.onChoose(one.id)}
              >
                {one.number} {one.name}
              </button>
              <span className="small whitespace-nowrap tabular-nums">
                {one.area.pixels.toLocaleString()} px
              </span>
            </li>
          ))}
        </ul>
        {mayDraw && !drawing && (
          <p className="m-0 flex flex-wrap gap-1 py-1">
            <button type="button" className="plain" onClick={props.onNew}>
              a new region
            </button>
            {region && merging.length > 0 && (
              <button
                type="button"
                className="plain"
                disabled={busy}
                onClick={() => {
                  props.onMerge([region.id, ...merging]);
                  setOthers([]);
                }}
              >
                merge {counted(merging.length, "other")} into {region.name}
              </button>
            )}
          </p>
        )}
      </section>
      {region && !drawing && <RegionFacts key={region.id} {...props} region={region} />}
      {mayDraw && <Proposals {...props} />}
      {mayDraw && !drawing && outlines.withdrawn.length > 0 && (
        <section className="rule-top py-1" aria-label="Withdrawn">
          <h3 className="text-[0.9375rem]">Withdrawn</h3>
          {outlines.withdrawn.map((one) => (
            <p key={one.id} className="m-0 flex items-center gap-2 py-0.5">
              <span className="flex-1">
                {one.number} {one.name}
              </span>
              <button
                type="button"
                className="quiet"
                disabled={busy}
                onClick={() => props.onAgain(one.id)}
              >
                take it in again
              </button>
            </p>
          ))}
        </section>
      )}
    </>
  );
}

/** One region: name, what lies behind it, its versions, and what can be done with it. */
function RegionFacts(props: Props & { region: OutlinedRegion }) {
  const { region, mayDraw, busy } = props;
  const [name, setName] = useState(region.name);
  const parts = region.area.parts.length;
  return (
    <section className="rule-top flex flex-col gap-2 py-2" aria-label={`Region ${region.number}`}>
      <form
        className="flex items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (name !== region.name) props.onCorrect(region.id, { name });
        }}
      >
        <label className="flex min-w-0 flex-1 items-center gap-2">
          name
          <input
            className="field min-w-0 flex-1"
            value={name}
            maxLength={120}
            readOnly={!mayDraw}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        {name !== region.name && (
          <button type="submit" className="plain" disabled={busy}>
            rename
          </button>
        )}
      </form>
      <label className="flex items-center gap-2">
        behind it
        <select
          className="field min-w-0 flex-1"
          value={region.backdrop}
          disabled={!mayDraw || busy}
          onChange={(event) =>
            props.onCorrect(region.id, { backdrop: event.target.value as Backdrop })
          }
        >
          <option value="">
            {region.proposed_backdrop
              ? `${region.proposed_backdrop}, as measured`
              : "not measured yet"}
          </option>
          {props.outlines.backdrops.map((one) => (
            <option key={one} value={one}>
              {one}
            </option>
          ))}
        </select>
      </label>
      {mayDraw && (
        <span className="flex flex-wrap gap-1">
          <button type="button" className="plain" onClick={() => props.onEdit(region)}>
            draw at it <Key action="edit" />
          </button>
          {parts > 1 && (
            <button
              type="button"
              className="plain"
              disabled={busy}
              onClick={() => props.onSplit(region.id)}
            >
              split its {parts} parts
            </button>
          )}
          <button
            type="button"
            className="plain"
            disabled={busy}
            onClick={() => props.onWithdraw(region.id)}
          >
            withdraw it
          </button>
        </span>
      )}
      <ol className="m-0 list-none p-0 small" aria-label="Versions">
        {region.versions.map((one) => (
          <li key={one.version} className="flex items-baseline gap-2">
            <span className="flex-1">
              outline {one.version}, {one.person ?? "proposed"}, {moment(one.at)}
            </span>
            {mayDraw && one.version !== region.version && (
              <button
                type="button"
                className="quiet"
                onClick={() => props.onVersion(region, one.version)}
              >
                begin from it
              </button>
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}

/** What attempts changed and no region has. */
function Proposals({ outlines, drawing, onPropose }: Props) {
  const found = outlines.attempts.flatMap((attempt) =>
    attempt.proposals
      .filter((one) => one.known < 0.5)
      .map((area, number) => ({ attempt, area, key: `${attempt.id}.${number}` })),
  );
  const waiting = outlines.attempts.filter((one) => !one.examined).length;
  return (
    <section className="rule-top py-1" aria-label="Changed elsewhere">
      <h3 className="text-[0.9375rem]">Changed outside the regions</h3>
      {found.length === 0 && (
        <p className="m-0 small">
          {waiting > 0
            ? `${counted(waiting, "attempt")} not examined yet.`
            : "No attempt changed anything else."}
        </p>
      )}
      <ul className="m-0 list-none p-0">
        {found.map(({ attempt, area, key }) => (
          <li key={key} className="flex items-baseline gap-2 py-0.5 small">
            <span className="flex-1">
              attempt {attempt.number}: {area.pixels.toLocaleString()} px at{" "}
              {area.bbox?.slice(0, 2).join(", ")}
            </span>
            <button type="button" className="quiet" onClick={() => onPropose(area)}>
              {drawing ? "add it" : "as a region"}
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
