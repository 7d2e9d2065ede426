import { useState } from "react";
import { useSearchParams } from "react-router";
import type { Action, Handlers } from "../keys";
import type { Zoom } from "../stage/view";
import { Key } from "../ui/Key";
import { ScreenDialog } from "../stage/ScreenDialog";
import { useScreen } from "../stage/screen";

const ZOOMS: { zoom: Zoom; action: Action; words: string }[] = [
  { zoom: "actual", action: "zoomActual", words: "100 %" },
  { zoom: "double", action: "zoomDouble", words: "200 %" },
  { zoom: "region", action: "zoomRegion", words: "region" },
  { zoom: "whole", action: "zoomWhole", words: "whole" },
  { zoom: "delivery", action: "zoomDelivery", words: "delivered" },
];

export type Zooming = {
  zoom: Zoom;
  /** Grows with every look, so that the same zoom asked for again goes there again. */
  looks: number;
  look: (zoom: Zoom) => void;
  again: () => void;
  keys: Handlers;
};

/** How near one looks; kept in the address. */
export function useZoom(): Zooming {
  const [search, setSearch] = useSearchParams();
  const [zoom, setZoom] = useState<Zoom>((search.get("zoom") as Zoom | null) ?? "region");
  const [looks, setLooks] = useState(0);
  const again = () => setLooks((count) => count + 1);
  const look = (next: Zoom) => {
    setZoom(next);
    again();
    const to = new URLSearchParams(window.location.search);
    to.set("zoom", next);
    setSearch(to, { replace: true });
  };
  return {
    zoom,
    looks,
    look,
    again,
    keys: Object.fromEntries(ZOOMS.map((one) => [one.action, () => look(one.zoom)])),
  };
}

export type Judged = { name: string; millimetres: number | null; distance: number } | undefined;

/** `without`: a zoom that makes no sense on this screen. */
export function ZoomButtons({ zoom, without }: { zoom: Zooming; without?: Zoom }) {
  return (
    <span className="segments ml-auto" role="group" aria-label="Zoom">
      {ZOOMS.filter((one) => one.zoom !== without).map((one) => (
        <button
          key={one.zoom}
          type="button"
          aria-pressed={zoom.zoom === one.zoom}
          onClick={() => zoom.look(one.zoom)}
        >
          {one.words} <Key action={one.action} />
        </button>
      ))}
    </span>
  );
}

/** How large the picture is seen; as large as delivered, from how far, and whether the screen is known for it. */
export function ZoomWords({ zoom, zoomed, size }: { zoom: Zooming; zoomed: number; size: Judged }) {
  const screen = useScreen();
  const [measuring, setMeasuring] = useState(false);
  return (
    <span className="small flex items-center gap-2 whitespace-nowrap tabular-nums">
      {zoom.zoom === "delivery" && size && size.millimetres !== null && (
        <>
          from {Math.round(size.distance / 10).toLocaleString()} cm
          <button type="button" className="quiet" onClick={() => setMeasuring(true)}>
            {screen.measured ? "screen measured" : "screen not measured"}
          </button>
        </>
      )}
      <span>{Math.round(zoomed * 100)} %</span>
      <ScreenDialog open={measuring} onClose={() => setMeasuring(false)} />
    </span>
  );
}
