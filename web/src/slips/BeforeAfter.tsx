import type View from "ol/View";
import { useState } from "react";
import type { Slip, SlipRegion } from "../api/client";
import { Stage } from "../stage/Stage";
import type { Zoom } from "../stage/view";

const none: never[] = [];
const ignored = () => undefined;
const ZOOMS: { zoom: Zoom; words: string }[] = [
  { zoom: "region", words: "region" },
  { zoom: "actual", words: "100 %" },
  { zoom: "double", words: "200 %" },
];

/** What was sent back and what came back, beside each other and in step. */
export function BeforeAfter({ slip, region }: { slip: Slip; region: SlipRegion }) {
  const [zoom, setZoom] = useState<Zoom>("region");
  const [link] = useState<{ view: View | null }>({ view: null });
  const after = slip.returned_image;
  if (!after) return null;
  const shared = {
    ready: none,
    marks: none,
    zoom,
    box: region.bbox,
    at: `${region.region}|${zoom}`,
    link,
    onSettled: ignored,
  };
  return (
    <div>
      <div className="segments mb-1" role="group" aria-label={`zoom of ${region.name}`}>
        {ZOOMS.map((one) => (
          <button
            key={one.zoom}
            type="button"
            aria-pressed={zoom === one.zoom}
            onClick={() => setZoom(one.zoom)}
          >
            {one.words}
          </button>
        ))}
      </div>
      <div className="grid grid-cols-2 gap-1">
        <figure className="m-0">
          <div className="relative h-[19rem]">
            <Stage {...shared} image={after} label={`${region.name} as it came back`} />
          </div>
          <figcaption className="small">attempt {slip.returned_number}, came back</figcaption>
        </figure>
        <figure className="order-first m-0">
          <div className="relative h-[19rem]">
            <Stage
              {...shared}
              image={slip.image}
              follows
              label={`${region.name} as it was sent back`}
            />
          </div>
          <figcaption className="small">attempt {slip.attempt_number}, sent back</figcaption>
        </figure>
      </div>
    </div>
  );
}
