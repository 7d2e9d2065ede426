import type { ImageOf } from "../api/client";
import { Key } from "../ui/Key";
import type { Aids } from "./useAids";

/** Which aid is on, and for which side. */
export function AidControls({ aids }: { aids: Aids }) {
  return (
    <span className="flex items-center gap-1" role="group" aria-label="Aids">
      <label className="flex items-center gap-1">
        see
        <select
          className="field"
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
      {aids.on && (
        <button type="button" className="plain whitespace-nowrap px-2" onClick={aids.nextSides}>
          {aids.sides === "both" ? "both sides" : `side ${aids.sides}`} <Key action="aidSides" />
        </button>
      )}
    </span>
  );
}

/** What is seen: an aid in its own words with how far it is, or the image's facts. */
export function Seen({ aids, image }: { aids: Aids; image: ImageOf }) {
  return (
    <p
      className="m-0 flex h-[22px] items-center gap-3 border-t px-3 text-[13px]"
      style={{ borderColor: "var(--line)" }}
      data-aid={aids.on?.name ?? ""}
      data-whole={aids.progress === null}
    >
      {aids.on ? (
        <span className="truncate">
          <strong>{aids.on.words}</strong>: {aids.on.says}
        </span>
      ) : (
        <span className="truncate">
          {image.width.toLocaleString()} × {image.height.toLocaleString()}, {image.facts}
        </span>
      )}
      {aids.trouble ? (
        <span role="alert" className="ml-auto whitespace-nowrap">
          {aids.trouble}
        </span>
      ) : (
        aids.progress !== null && (
          <span role="status" className="ml-auto flex items-center gap-2 whitespace-nowrap">
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
    </p>
  );
}
