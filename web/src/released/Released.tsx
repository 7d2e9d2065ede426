import { useQuery } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { releasedQuery } from "../api/queries";
import { useKeys } from "../keys";
import { Stage } from "../stage/Stage";
import type { Zoom } from "../stage/view";
import { Key } from "../ui/Key";
import { Notice } from "../ui/Notice";
import { moment } from "../ui/words";

const nothing: never[] = [];

/** What was released to a guest: the pictures, and nothing about how they came to be. */
export function Released() {
  const released = useQuery(releasedQuery);
  const [place, setPlace] = useState(0);
  const [zoom, setZoom] = useState<Zoom>("whole");
  const [looks, setLooks] = useState(0);
  const onSettled = useCallback(() => undefined, []);
  const look = (next: Zoom) => {
    setZoom(next);
    setLooks((count) => count + 1);
  };
  useKeys({ zoomActual: () => look("actual"), zoomWhole: () => look("whole") });
  if (released.isPending) return <Notice title="Looking what was released to you …" busy />;
  if (released.isError)
    return (
      <Notice title="The pictures cannot be shown" alert>
        {released.error.message}
      </Notice>
    );
  const shown = released.data[place];
  if (!shown)
    return (
      <Notice title="Nothing was released to you yet">
        You will find pictures here once the supervisor has released them.
      </Notice>
    );
  return (
    <main className="grid h-full grid-rows-[44px_1fr]">
      <div className="flex items-center gap-3 px-3">
        <h1 className="text-[1rem]">{shown.picture}</h1>
        <span>
          {shown.job}, released {moment(shown.released_at)}
        </span>
        {released.data.length > 1 && (
          <button
            type="button"
            className="plain"
            onClick={() => setPlace((place + 1) % released.data.length)}
          >
            next of {released.data.length}
          </button>
        )}
        <span className="ml-auto flex gap-1">
          <button type="button" className="plain" onClick={() => look("whole")}>
            whole <Key action="zoomWhole" />
          </button>
          <button type="button" className="plain" onClick={() => look("actual")}>
            100 % <Key action="zoomActual" />
          </button>
        </span>
      </div>
      <Stage
        image={shown.image}
        ready={nothing}
        marks={nothing}
        zoom={zoom}
        box={[0, 0, shown.image.width, shown.image.height]}
        at={`${shown.id}|${zoom}|${looks}`}
        onSettled={onSettled}
        label={shown.picture}
      />
    </main>
  );
}
