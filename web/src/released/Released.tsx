import { useQuery } from "@tanstack/react-query";
import { useCallback, useMemo, useState } from "react";
import { releasedQuery } from "../api/queries";
import { useKeys } from "../keys";
import { ringed } from "../stage/evidence";
import { Stage } from "../stage/Stage";
import { corners, labelled } from "../stage/strokes";
import type { Zoom } from "../stage/view";
import { Key } from "../ui/Key";
import { Notice } from "../ui/Notice";
import { moment } from "../ui/words";
import { Remarks } from "./Remarks";

const nothing: never[] = [];
/** A remark's place is framed so far around it, as a share of the longer side. */
const AROUND = 0.012;

const framed = ([x = 0, y = 0]: readonly number[], side: number) => {
  const reach = Math.max(8, AROUND * side);
  return [x - reach, y - reach, 2 * reach, 2 * reach];
};

/** Where one is asked something. */
const askedAt = (questions: { bbox: number[]; answered: boolean }[]) =>
  questions.filter((one) => !one.answered).map((one) => ringed(corners(one.bbox)));

/** What was released to a guest: the pictures, and nothing about how they came to be. */
export function Released() {
  const released = useQuery(releasedQuery);
  const [place, setPlace] = useState(0);
  const [zoom, setZoom] = useState<Zoom>("whole");
  const [looks, setLooks] = useState(0);
  const [before, setBefore] = useState(false);
  const [marked, setMarked] = useState<number[] | null>(null);
  const onSettled = useCallback(() => undefined, []);
  const show = (next: number) => {
    setPlace(next);
    setMarked(null);
  };
  const look = (next: Zoom) => {
    setZoom(next);
    setLooks((count) => count + 1);
  };
  useKeys({
    zoomActual: () => look("actual"),
    zoomWhole: () => look("whole"),
    swap: (down) => setBefore(down),
  });
  const shown = released.data?.[place];
  const side = shown ? Math.max(shown.image.width, shown.image.height) : 0;
  const marks = useMemo(
    () => [
      ...(shown?.remarks ?? []).flatMap((one, number) =>
        one.place
          ? [
              ringed(corners(framed(one.place, side))),
              labelled(String(number + 1), [
                (one.place[0] ?? 0) - AROUND * side,
                (one.place[1] ?? 0) - AROUND * side,
              ]),
            ]
          : [],
      ),
      ...askedAt(shown?.questions ?? nothing),
      ...(marked ? [ringed(corners(framed(marked, side)))] : []),
    ],
    [shown?.remarks, shown?.questions, marked, side],
  );
  const tool = useMemo(
    () => ({
      kind: "spot" as const,
      onDone: ([ring]: number[][][]) => {
        const spot = ring?.[0];
        if (spot) setMarked(spot);
      },
    }),
    [],
  );
  if (released.isPending) return <Notice title="Looking what was released to you …" busy />;
  if (released.isError)
    return (
      <Notice title="The pictures cannot be shown" alert>
        {released.error.message}
      </Notice>
    );
  if (!shown)
    return (
      <Notice title="Nothing was released to you yet">
        You will find pictures here once the supervisor has released them.
      </Notice>
    );
  return (
    <main className="grid h-full grid-cols-[1fr_300px] grid-rows-[44px_minmax(0,1fr)]">
      <div className="col-span-2 flex items-center gap-3 px-3">
        <h1 className="text-[1rem]">{shown.picture}</h1>
        {released.data.length > 1 && (
          <select
            className="field"
            aria-label="which picture"
            value={place}
            onChange={(event) => show(Number(event.target.value))}
          >
            {released.data.map((one, at) => (
              <option key={one.id} value={at}>
                {one.job}: {one.picture}
              </option>
            ))}
          </select>
        )}
        <span>
          {shown.job}, released {moment(shown.released_at)}
        </span>
        {released.data.length > 1 && (
          <button
            type="button"
            className="plain"
            onClick={() => show((place + 1) % released.data.length)}
          >
            next of {released.data.length}
          </button>
        )}
        <span className="ml-auto flex gap-1">
          <button
            type="button"
            className="plain"
            aria-pressed={before}
            onClick={() => setBefore((old) => !old)}
          >
            before <Key action="swap" />
          </button>
          <button type="button" className="plain" onClick={() => look("whole")}>
            whole <Key action="zoomWhole" />
          </button>
          <button type="button" className="plain" onClick={() => look("actual")}>
            100 % <Key action="zoomActual" />
          </button>
        </span>
      </div>
      <Stage
        image={before ? shown.original : shown.image}
        ready={[shown.image, shown.original]}
        marks={before ? nothing : marks}
        tool={tool}
        zoom={zoom}
        box={[0, 0, shown.image.width, shown.image.height]}
        at={`${shown.id}|${zoom}|${looks}`}
        onSettled={onSettled}
        label={before ? `${shown.picture}, before` : shown.picture}
      />
      <Remarks
        key={shown.id}
        release={shown.id}
        remarks={shown.remarks}
        questions={shown.questions}
        place={marked}
        onPlace={setMarked}
      />
    </main>
  );
}
