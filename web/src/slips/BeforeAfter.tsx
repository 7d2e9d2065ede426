import type View from "ol/View";
import { useState } from "react";
import type { Slip, SlipRegion } from "../api/client";
import { Stage } from "../stage/Stage";
import { ZoomSegments } from "../stage/ZoomSegments";
import type { Zoom } from "../stage/view";

const none: never[] = [];
const ignored = () => undefined;
const ZOOMS: readonly Zoom[] = ["region", "actual", "double"];

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
      <div className="mb-1">
        <ZoomSegments zooms={ZOOMS} zoom={zoom} onZoom={setZoom} label={`zoom of ${region.name}`} />
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
