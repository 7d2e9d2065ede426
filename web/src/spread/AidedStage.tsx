import { useQuery } from "@tanstack/react-query";
import type View from "ol/View";
import { useCallback, useState } from "react";
import type { ImageOf, Shapes } from "../api/client";
import { aidQuery, aidsQuery } from "../api/queries";
import { aided } from "../bench/useAids";
import { Stage } from "../stage/Stage";
import type { Zoom } from "../stage/view";

const nothing: never[] = [];

type Props = {
  image: ImageOf;
  cell: number | null;
  aid: Shapes["AidOf"] | null;
  zoom: Zoom;
  box: readonly number[];
  at: string;
  delivery: number;
  link: { view: View | null };
  follows: boolean;
  label: string;
  /** `plain`: seen as it is, not through an aid. */
  onSettled: (
    image: number,
    cell: number | null,
    settled: boolean,
    zoomed: number,
    plain: boolean,
  ) => void;
};

/** One of several stages in step, through an aid if one is on. */
export function AidedStage({
  image,
  cell,
  aid,
  zoom,
  box,
  at,
  delivery,
  link,
  follows,
  label,
  onSettled,
}: Props) {
  const place = (useQuery(aidsQuery).data ?? []).findIndex((one) => one.name === aid?.name);
  const [settled, setSettled] = useState(false);
  const state = useQuery({
    ...aidQuery(image.id, aid?.name ?? ""),
    enabled: aid !== null && image.ready && settled,
  });
  const shown =
    aid && place >= 0 ? aided(image, aid.name, place, Boolean(state.data?.ready)) : image;
  const settledHere = useCallback(
    (now: boolean, zoomed: number) => {
      setSettled(now);
      onSettled(image.id, cell, now, zoomed, aid === null);
    },
    [image.id, cell, aid, onSettled],
  );
  return (
    <Stage
      image={shown}
      ready={nothing}
      marks={nothing}
      zoom={zoom}
      box={box}
      at={at}
      delivery={delivery}
      link={link}
      follows={follows}
      onSettled={settledHere}
      label={label}
    />
  );
}
