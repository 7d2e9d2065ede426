import { useMemo, useState } from "react";
import type { Change, SlipRegion } from "../api/client";
import { Stage } from "../stage/Stage";
import { ZoomSegments } from "../stage/ZoomSegments";
import type { Tool } from "../stage/drawing";
import { outlined, ringed } from "../stage/evidence";
import { crossedOut, directed, takenFrom } from "../stage/guides";
import { labelled } from "../stage/strokes";
import type { Zoom } from "../stage/view";
import {
  boxesOf,
  drawnOf,
  GUIDES,
  isGuide,
  linesOf,
  withDrawn,
  withoutLast,
  type Guide,
} from "./guides";

const none: never[] = [];
const ignored = () => undefined;
const ZOOMS: readonly Zoom[] = ["region", "actual", "double", "whole"];
const ALL = Object.keys(GUIDES) as Guide[];

/** The picture that was sent, with what is wrong and what the slip asks for drawn on it. */
export function SentPicture({
  region,
  changes,
  onChanges,
}: {
  region: SlipRegion;
  changes: Change[];
  /** Null once it was sent: nothing is drawn any more. */
  onChanges: ((changes: Change[]) => void) | null;
}) {
  const [zoom, setZoom] = useState<Zoom>("region");
  const [bare, setBare] = useState(false);
  const [guide, setGuide] = useState<Guide | null>(null);
  const marks = useMemo(() => (bare ? none : marksOf(region, changes)), [bare, region, changes]);
  const tool: Tool | null =
    guide && onChanges
      ? {
          kind: GUIDES[guide].drawn === "area" ? "around" : "paint",
          radius: 1,
          at: guide,
          onDone: ([points = []]) => {
            onChanges(withDrawn(changes, guide, points));
            setGuide(null);
          },
        }
      : null;
  return (
    <figure className="m-0">
      <div className="mb-1 flex flex-wrap items-center gap-2">
        <ZoomSegments zooms={ZOOMS} zoom={zoom} onZoom={setZoom} label={`zoom of ${region.name}`} />
        <button
          type="button"
          className="quiet"
          aria-pressed={bare}
          onClick={() => setBare((old) => !old)}
        >
          bare
        </button>
      </div>
      <div className="relative h-[300px]">
        <Stage
          image={region.image}
          ready={none}
          marks={marks}
          zoom={zoom}
          box={region.bbox}
          at={`${region.region}|${zoom}`}
          tool={tool}
          onSettled={ignored}
          label={`${region.name} as it was sent back, with what is wrong drawn on it`}
        />
      </div>
      <figcaption className="small">attempt {region.attempt_number}, sent back</figcaption>
      {onChanges && (
        <div
          className="mt-1 flex flex-wrap gap-x-2 gap-y-1"
          role="group"
          aria-label={`Draw on ${region.name}`}
        >
          {ALL.map((one) => (
            <span key={one} className="inline-flex items-center">
              <button
                type="button"
                className="quiet"
                aria-pressed={guide === one}
                onClick={() => setGuide(guide === one ? null : one)}
              >
                {GUIDES[one].words}
              </button>
              {drawnOf(changes, one) > 0 && (
                <button
                  type="button"
                  className="quiet"
                  aria-label={`undo ${drawnOf(changes, one)}: the last of “${GUIDES[one].words}”`}
                  onClick={() => onChanges(withoutLast(changes, one))}
                >
                  undo {drawnOf(changes, one)}
                </button>
              )}
            </span>
          ))}
        </div>
      )}
    </figure>
  );
}

function marksOf(region: SlipRegion, changes: Change[]) {
  const numbered = region.flaws.length > 1;
  return [
    outlined(region),
    ...region.flaws.flatMap((flaw, place) => [
      ringed(flaw.polygon),
      ...(numbered ? [labelled(String(place + 1), flaw.polygon[0] ?? flaw.bbox)] : []),
    ]),
    ...changes
      .filter((one) => isGuide(one.what))
      .flatMap((one) =>
        one.what === "follow the line"
          ? linesOf(one).flatMap(directed)
          : boxesOf(one).flatMap(one.what === "take from here" ? takenFrom : crossedOut),
      ),
  ];
}
