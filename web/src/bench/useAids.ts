import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { ImageOf, Shapes } from "../api/client";
import { aidQuery, aidsQuery } from "../api/queries";
import type { Handlers } from "../keys";
import type { Drawable } from "../stage/useStage";

export type AidSides = "both" | "A" | "B";
const SIDES: readonly AidSides[] = ["both", "A", "B"];

export type Aids = {
  all: Shapes["AidOf"][];
  /** The aid that is on, or null. */
  on: Shapes["AidOf"] | null;
  sides: AidSides;
  /** How far the whole frame is, 0..1, for the side that is farther behind; null once all stand. */
  progress: number | null;
  trouble: string | null;
  choose: (name: string | null) => void;
  nextSides: () => void;
  /** An image as side A or B shows it now. */
  as: (image: ImageOf, side: "A" | "B") => Drawable;
  keys: Handlers;
};

/** An aid of an image is an image of its own, with a number that no other has; drawn whole it is another one than in part. */
export function aided(image: ImageOf, name: string, place: number, whole: boolean): Drawable {
  return {
    ...image,
    id: image.id + (2 * place + (whole ? 2 : 1)) * 1e9,
    tiles: `/api/images/${image.id}/aids/${name}/tiles/`,
    partial: !whole,
  };
}

/** Ways of seeing for the two sides that are compared. The whole frame is asked for only once what is looked at stands. */
export function useAids(a: ImageOf, b: ImageOf, settled: number | null): Aids {
  const all = useQuery(aidsQuery).data ?? [];
  const [chosen, setChosen] = useState<string | null>(null);
  const [last, setLast] = useState<string | null>(null);
  const [sides, setSides] = useState<AidSides>("both");
  const on = all.find((one) => one.name === chosen) ?? null;
  const [askedFor, setAskedFor] = useState("");
  const now = `${chosen}|${a.id}|${b.id}`;
  const looked = on
    ? [a, b].flatMap((image) =>
        [false, true].map((whole) => aided(image, on.name, all.indexOf(on), whole).id),
      )
    : [];
  if (settled !== null && on && askedFor !== now && (sides === "A" || looked.includes(settled)))
    setAskedFor(now);
  const may = Boolean(on) && askedFor === now;
  const states = {
    A: useQuery({ ...aidQuery(a.id, on?.name ?? ""), enabled: may && a.ready && sides !== "B" }),
    B: useQuery({ ...aidQuery(b.id, on?.name ?? ""), enabled: may && b.ready && sides !== "A" }),
  };
  const choose = (name: string | null) => {
    if (chosen) setLast(chosen);
    setChosen(name);
  };
  const place = on ? all.indexOf(on) : 0;
  const waiting = on
    ? (["A", "B"] as const)
        .filter((side) => (sides === "both" || sides === side) && !states[side].data?.ready)
        .map((side) => states[side].data?.progress ?? 0)
    : [];
  const failed = on
    ? [states.A, states.B].find((state) => state.data?.state === "failed" || state.isError)
    : undefined;
  const nextSides = () =>
    setSides((old) => SIDES[(SIDES.indexOf(old) + 1) % SIDES.length] ?? "both");
  return {
    all,
    on,
    sides,
    choose,
    nextSides,
    progress: waiting.length ? Math.min(...waiting) : null,
    trouble: failed
      ? (failed.error?.message ??
        "The whole frame could not be drawn; what is seen at 100 % is right all the same.")
      : null,
    as: (image, side) =>
      on && (sides === "both" || sides === side)
        ? aided(image, on.name, place, Boolean(states[side].data?.ready))
        : image,
    keys: {
      aid: () => choose(chosen ? null : (last ?? all[0]?.name ?? null)),
      nextAid: () => choose(all[(place + (on ? 1 : 0)) % Math.max(1, all.length)]?.name ?? null),
      aidSides: nextSides,
    },
  };
}
