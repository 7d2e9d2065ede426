import type { Zoom } from "./view";

const WORDS: Record<Zoom, string> = {
  region: "region",
  actual: "100 %",
  double: "200 %",
  whole: "whole",
  delivery: "delivered",
};

/** Where a small stage looks: one of a few. */
export function ZoomSegments({
  zooms,
  zoom,
  onZoom,
  label,
}: {
  zooms: readonly Zoom[];
  zoom: Zoom;
  onZoom: (zoom: Zoom) => void;
  label: string;
}) {
  return (
    <div className="segments" role="group" aria-label={label}>
      {zooms.map((one) => (
        <button key={one} type="button" aria-pressed={zoom === one} onClick={() => onZoom(one)}>
          {WORDS[one]}
        </button>
      ))}
    </div>
  );
}
