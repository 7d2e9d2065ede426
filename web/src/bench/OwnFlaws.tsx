import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { CellDetail, Shapes } from "../api/client";
import { kindsQuery } from "../api/queries";
import { around } from "../stage/outline";
import { Key } from "../ui/Key";
import { KindPicture, SeverityStrokes } from "../ui/marks";
import type { At } from "./useSpot";

export type Own = CellDetail["own"][number];
type Asked = Shapes["OwnFindingAskedRequest"];
const SAID: readonly Asked["severity"][] = ["faint", "clear", "glaring"];
export const RADII: readonly number[] = [10, 20, 40, 80, 160];

type Props = {
  outline: number[][] | null;
  pinned: At | null;
  size: { id: number; name: string } | null;
  busy: boolean;
  trouble: string | null;
  onOutline: (outline: number[][]) => void;
  onPin: () => void;
  onSave: (asked: Asked) => void;
  onCancel: () => void;
};

/** Marking a flaw of one's own: outline, kind, severity, words. */
export function OwnFlawForm({
  outline,
  pinned,
  size,
  busy,
  trouble,
  onOutline,
  onPin,
  onSave,
  onCancel,
}: Props) {
  const kinds = useQuery(kindsQuery).data ?? [];
  const [kind, setKind] = useState("");
  const [severity, setSeverity] = useState<Asked["severity"]>("clear");
  const [words, setWords] = useState("");
  const [radius, setRadius] = useState(20);
  const complete = outline !== null && kind !== "";
  return (
    <form
      className="rule-top flex flex-col gap-2 py-2"
      aria-label="A flaw of your own"
      onSubmit={(event) => {
        event.preventDefault();
        if (complete && !busy && outline)
          onSave({ kind, severity, words, size: size?.id ?? null, polygon: outline });
      }}
    >
      <h3 className="text-[0.9375rem]">A flaw of your own</h3>
      <p className="m-0 small">
        {outline
          ? "Outlined; drag again to outline anew."
          : "Drag around it on the picture, or take a ring around the pinned spot."}
      </p>
      <span className="flex flex-wrap items-center gap-1">
        {pinned ? (
          <>
            <button
              type="button"
              className="plain px-2"
              onClick={() => onOutline(around(pinned, radius))}
            >
              ring around {pinned[0]}, {pinned[1]}
            </button>
            <label className="flex items-center gap-1">
              of{" "}
              <select
                className="field"
                value={radius}
                onChange={(event) => {
                  setRadius(Number(event.target.value));
                  onOutline(around(pinned, Number(event.target.value)));
                }}
              >
                {RADII.map((one) => (
                  <option key={one} value={one}>
                    {one} px
                  </option>
                ))}
              </select>
            </label>
          </>
        ) : (
          <button type="button" className="plain px-2" onClick={onPin}>
            pin a spot <Key action="pin" />
          </button>
        )}
      </span>
      <label className="flex flex-col">
        what it is
        <select
          className="field"
          value={kind}
          required
          onChange={(event) => setKind(event.target.value)}
        >
          <option value="">choose …</option>
          {kinds.map((one) => (
            <option key={one.name} value={one.name}>
              {one.name}: {one.says}
            </option>
          ))}
        </select>
      </label>
      <fieldset className="m-0 flex gap-3 border-0 p-0">
        <legend className="p-0">how it shows{size ? ` at ${size.name}` : ""}</legend>
        {SAID.map((one) => (
          <label key={one} className="flex items-center gap-1">
            <input
              type="radio"
              name="severity"
              checked={severity === one}
              onChange={() => setSeverity(one)}
            />
            {one}
          </label>
        ))}
      </fieldset>
      <label className="flex flex-col">
        in your words
        <textarea
          className="field"
          rows={2}
          maxLength={2000}
          value={words}
          onChange={(event) => setWords(event.target.value)}
        />
      </label>
      {trouble && (
        <p role="alert" className="m-0">
          <strong>{trouble}</strong>
        </p>
      )}
      <span className="flex gap-2">
        <button type="submit" className="plain" aria-disabled={!complete || busy}>
          mark it
        </button>
        <button type="button" className="plain" onClick={onCancel}>
          leave it <Key action="ownFlaw" />
        </button>
      </span>
    </form>
  );
}

/** What people outlined in this cell. */
export function OwnFlaws({
  own,
  chosen,
  mayRule,
  onChoose,
  onTakeBack,
}: {
  own: Own[];
  chosen: number | null;
  mayRule: boolean;
  onChoose: (id: number | null) => void;
  onTakeBack: (id: number) => void;
}) {
  if (own.length === 0) return null;
  return (
    <section className="rule-top py-1" aria-label="Seen by people">
      <h3 className="text-[0.9375rem]">Seen by people</h3>
      <ul className="m-0 list-none p-0">
        {own.map((one) => (
          <li key={one.id} className="py-1" data-own={one.id}>
            <button
              type="button"
              aria-expanded={one.id === chosen}
              onClick={() => onChoose(one.id === chosen ? null : one.id)}
              className="flex w-full items-center gap-2 border-0 bg-transparent p-0 text-left"
            >
              <KindPicture kind={one.kind} />
              <span className="flex-1">
                {one.kind}, {one.word}
                {one.size ? ` at ${one.size}` : ""}
              </span>
              <SeverityStrokes word={one.word} />
            </button>
            <p className="m-0 pl-[26px] small">
              {one.person}
              {one.carried_from !== null && `, in attempt ${one.carried_from}; the same here`}
              {one.words ? `: ${one.words}` : ""}{" "}
              {mayRule && one.id === chosen && (
                <button type="button" className="plain px-2" onClick={() => onTakeBack(one.id)}>
                  take it back
                </button>
              )}
            </p>
          </li>
        ))}
      </ul>
    </section>
  );
}
