import { useState } from "react";
import { useSearchParams } from "react-router";
import type { Action, Handlers } from "../keys";
import type { Zoom } from "../stage/view";
import { Key } from "../ui/Key";

const ZOOMS: { zoom: Zoom; action: Action; words: string }[] = [
  { zoom: "actual", action: "zoomActual", words: "100 %" }, { zoom: "double", action: "zoomDouble", words: "200 %" },
  { zoom: "region", action: "zoomRegion", words: "region" }, { zoom: "whole", action: "zoomWhole", words: "whole" },
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
  return { zoom, looks, look, again, keys: Object.fromEntries(ZOOMS.map((one) => [one.action, () => look(one.zoom)])) };
}

export function ZoomButtons({ zoom, zoomed }: { zoom: Zooming; zoomed: number }) {
  return (
    <span className="ml-auto flex items-center gap-1" role="group" aria-label="Zoom">
      <span className="mr-1 tabular-nums">{Math.round(zoomed * 100)} %</span>
      {ZOOMS.map((one) => <button key={one.zoom} type="button" className="plain whitespace-nowrap px-2" aria-pressed={zoom.zoom === one.zoom} onClick={() => zoom.look(one.zoom)}>{one.words} <Key action={one.action} /></button>)}
    </span>
  );
}
