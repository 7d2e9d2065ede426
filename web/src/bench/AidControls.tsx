import { Key } from "../ui/Key";
import type { Aids } from "./useAids";

/** Which aid is on, and for which side. */
export function AidControls({ aids }: { aids: Aids }) {
  return (
    <span className="flex items-center gap-1 whitespace-nowrap" role="group" aria-label="Aids">
      <label className="flex items-center gap-1">
        see
        <select
          className="quiet-field w-[4.7rem]"
          aria-label="aid"
          value={aids.on?.name ?? ""}
          onChange={(event) => aids.choose(event.target.value || null)}
        >
          <option value="">as it is</option>
          {aids.all.map((one) => (
            <option key={one.name} value={one.name}>
              {one.words}
            </option>
          ))}
        </select>
        <Key action="aid" />
        <Key action="nextAid" />
      </label>
    </span>
  );
}

/** The aid that is on in its own words, and how far its whole frame is. */
export function AidWords({ aids }: { aids: Aids }) {
  return (
    <span
      className="small flex items-center gap-3"
      data-aid={aids.on?.name ?? ""}
      data-whole={aids.progress === null}
    >
      {aids.on && (
        <button type="button" className="quiet" onClick={aids.nextSides}>
          {aids.sides === "both" ? "both sides" : `side ${aids.sides}`} <Key action="aidSides" />
        </button>
      )}
      {aids.on && (
        <span className="max-w-[22rem] text-[0.75rem] leading-tight">
          <strong>{aids.on.words}</strong>: {aids.on.says}
        </span>
      )}
      {aids.trouble ? (
        <span role="alert">{aids.trouble}</span>
      ) : (
        aids.progress !== null && (
          <span role="status" className="flex items-center gap-2 whitespace-nowrap">
            whole frame{" "}
            <progress
              max={1}
              value={aids.progress}
              className="h-2 w-[80px]"
              aria-label="whole frame"
              style={{ accentColor: "#000" }}
            />
          </span>
        )
      )}
    </span>
  );
}
