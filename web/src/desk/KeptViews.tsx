import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { keptQuery, useKept } from "../api/kept";
import { EVERYTHING, type DeskLooked } from "../api/queries";
import { Trouble } from "../ui/Trouble";
import { addressOf, looksForAll } from "./looked";

const same = (one: DeskLooked, other: DeskLooked) =>
  JSON.stringify(Object.entries(addressOf(one)).sort()) ===
  JSON.stringify(Object.entries(addressOf(other)).sort());

/** What one looks for again and again, by name; keeping what is looked for now. */
export function KeptViews({
  looked,
  onLook,
}: {
  looked: DeskLooked;
  onLook: (looked: DeskLooked) => void;
}) {
  const kept = useQuery(keptQuery).data ?? [];
  const { keep, forget } = useKept();
  const [name, setName] = useState("");
  const views = kept.map((one) => ({
    ...one,
    looked: { ...EVERYTHING, ...one.looked },
  }));
  const here = views.find((one) => same(one.looked, looked));
  const fresh = !looksForAll(looked) && !here;
  if (views.length === 0 && !fresh) return null;
  return (
    <div className="mb-2 flex flex-wrap items-center gap-2" role="group" aria-label="Kept views">
      {views.map((one) => (
        <button
          key={one.id}
          type="button"
          className="plain px-2 py-0"
          aria-pressed={one.id === here?.id}
          onClick={() => onLook(one.looked)}
        >
          {one.name}
        </button>
      ))}
      {here && (
        <button
          type="button"
          className="quiet"
          aria-label={`forget the view ${here.name}`}
          onClick={() => forget.mutate(here.id)}
        >
          forget it
        </button>
      )}
      {fresh && (
        <form
          className="flex items-center gap-1"
          onSubmit={(event) => {
            event.preventDefault();
            if (name.trim() && !keep.isPending)
              keep.mutate({ name, looked }, { onSuccess: () => setName("") });
          }}
        >
          <input
            className="field w-[150px]"
            aria-label="keep this view as"
            placeholder="keep this view as"
            maxLength={60}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
          <button type="submit" className="quiet" aria-disabled={!name.trim()}>
            keep
          </button>
        </form>
      )}
      <Trouble error={keep.error ?? forget.error} />
    </div>
  );
}
