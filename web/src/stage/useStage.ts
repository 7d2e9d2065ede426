import OlMap from "ol/Map";
import View from "ol/View";
import TileLayer from "ol/layer/Tile";
import ImageLayer from "ol/layer/Image";
import VectorLayer from "ol/layer/Vector";
import type Feature from "ol/Feature";
import { defaults as interactions } from "ol/interaction/defaults";
import IIIFInfo, { type ImageInformationResponse } from "ol/format/IIIFInfo";
import Projection from "ol/proj/Projection";
import IIIF from "ol/source/IIIF";
import RasterSource from "ol/source/Raster";
import VectorSource from "ol/source/Vector";
import { getRenderPixel } from "ol/render";
import type RenderEvent from "ol/render/Event";
import { useEffect, useRef, useState, type RefObject } from "react";
import type { ImageOf } from "../api/client";
import Draw from "ol/interaction/Draw";
import type Polygon from "ol/geom/Polygon";
import { thinned } from "./outline";
import { interactionsOf, type Tool } from "./drawing";
import { sketched } from "./sketched";
import { differing, sideOfA, type Measure, type Wipe } from "./compare";
import { lookAt, squared, type Zoom } from "./view";

/** `partial`: tiles of the smaller sizes are not there yet, and missing ones are no trouble. */
export type Drawable = ImageOf & { partial?: boolean };

export type Shown = {
  /** The image that is seen. */
  image: Drawable;
  /** Images kept drawn but unseen, so that switching to them costs nothing. */
  ready: Drawable[];
  marks: Feature[];
  /** Where one will probably look next: the tiles of those places are fetched once this one stands. */
  soon?: { image: Drawable; box: readonly number[] }[];
  /** Where to look; a new `at` moves the view, anything else leaves it where it is. */
  zoom: Zoom;
  box: readonly number[];
  at: string;
  /** Picture pixels for one CSS pixel at the delivery size. */
  delivery?: number;
  /** Another image over one side of a line. */
  wiped?: { image: ImageOf; wipe: Wipe } | null;
  /** Instead of the image, how it differs from another. */
  against?: { image: ImageOf; measure: Measure; amplified: number } | null;
  /** Two stages that move in step share this; the first that is set up puts its view there. */
  link?: { view: View | null };
  /** Moves with the other stage and never by itself. */
  follows?: boolean;
  /** While given, a drag draws an outline instead of moving the picture; called with its points as [x, y] in the picture. */
  onOutline?: ((points: number[][]) => void) | null;
  /** While given, pointer and keys draw with it instead of moving the picture. */
  tool?: Tool | null;
  /** Told which pixel the pointer is on, as (x, y), or null where it is on none. */
  onSpot?: (at: readonly [number, number] | null) => void;
};

async function sourceOf(image: ImageOf): Promise<IIIF> {
  const answer = await fetch(`${image.tiles}info.json`, { credentials: "same-origin" });
  if (!answer.ok) throw new Error(`The tiles of ${image.name} cannot be had (${answer.status}).`);
  const options = new IIIFInfo(
    (await answer.json()) as ImageInformationResponse,
  ).getTileSourceOptions({ quality: "default", format: "png" });
  if (!options) throw new Error(`The tiles of ${image.name} are not understood.`);
  return new IIIF({
    ...options,
    format: "png",
    transition: 0,
    zDirection: -1,
    crossOrigin: undefined,
  });
}

const isOver = (now: Shown, id: number) => now.wiped?.image.id === id && now.image.id !== id;

/** Keep what is drawn over to its side of the line. */
function clipped(event: RenderEvent, now: Shown, id: number): void {
  const context = event.context;
  if (
    !isOver(now, id) ||
    !now.wiped ||
    !(context instanceof CanvasRenderingContext2D) ||
    !event.frameState
  )
    return;
  const [width = 1, height = 1] = event.frameState.size;
  context.save();
  context.beginPath();
  sideOfA(now.wiped.wipe, width, height).forEach((point, i) => {
    const [x = 0, y = 0] = getRenderPixel(event, point);
    if (i === 0) context.moveTo(x, y);
    else context.lineTo(x, y);
  });
  context.closePath();
  context.clip();
}

/** One map, owned here; React only says what it shows. Returns whether the shown image stands at full sharpness, and what went wrong. */
export function useStage(
  target: RefObject<HTMLDivElement | null>,
  shown: Shown,
): { settled: boolean; trouble: string | null; zoomed: number } {
  const map = useRef<OlMap | null>(null);
  const layers = useRef(new Map<number, TileLayer | "coming">());
  const marks = useRef(new VectorSource());
  const wanted = useRef(shown);
  const [settledFor, setSettledFor] = useState<string>("");
  const [trouble, setTrouble] = useState<string | null>(null);
  const [zoomed, setZoomed] = useState(1);
  const [came, setCame] = useState(0);
  const token = `${shown.image.id}|${shown.at}`;
  const { width, height } = shown.image;
  const link = shown.link;

  useEffect(() => {
    if (!target.current) return undefined;
    const extent = [0, -height, width, 0];
    const projection = new Projection({ code: "picture", units: "pixels", extent });
    const linked = link?.view ?? null;
    const view =
      linked ??
      new View({
        projection,
        center: [width / 2, -height / 2],
        resolution: 1,
        minResolution: 1 / 16,
        maxResolution: 64,
        constrainResolution: false,
        enableRotation: false,
        showFullExtent: true,
      });
    const made = new OlMap({
      target: target.current,
      controls: [],
      view,
      interactions: interactions({
        doubleClickZoom: false,
        altShiftDragRotate: false,
        pinchRotate: false,
        keyboard: false,
      }),
      layers: [
        new VectorLayer({ source: marks.current, zIndex: 10, updateWhileInteracting: true }),
      ],
    });
    const own = layers.current;
    made.on("rendercomplete", (event) => {
      const now = wanted.current;
      // It is reported a moment after the frame was drawn: what came, or moved, meanwhile was not in it yet, and a frame of its own follows.
      const drawnNow = event.frameState;
      if (
        !drawnNow ||
        drawnNow.viewState.resolution !== view.getResolution() ||
        drawnNow.viewState.center.join() !== view.getCenter()?.join()
      )
        return;
      const seen = (id: number) =>
        drawnNow.layerStatesArray.some(
          (state) => state.layer === own.get(id) && state.visible && state.opacity === 1,
        );
      // Where it looks, in the picture's pixels, for whoever must know which pixel stands where.
      const [x = 0, y = 0] = view.getCenter() ?? [];
      if (target.current) target.current.dataset.view = `${x} ${-y} ${view.getResolution() ?? 1}`;
      if (
        own.get(now.image.id) instanceof TileLayer &&
        seen(now.image.id) &&
        (!now.wiped?.image.ready || seen(now.wiped.image.id))
      )
        setSettledFor(`${now.image.id}|${now.at}`);
    });
    made.on("pointermove", (event) => {
      if (event.dragging) return;
      const [x, y] = [
        Math.floor(event.coordinate[0] ?? -1),
        Math.floor(-(event.coordinate[1] ?? 1)),
      ];
      wanted.current.onSpot?.(x >= 0 && y >= 0 && x < width && y < height ? [x, y] : null);
    });
    // A drag that ran on, or a stage that became narrower, leaves the picture's pixels between the screen's.
    made.on("moveend", () => {
      if (wanted.current.follows) return;
      const size = made.getSize(),
        [x, y] = view.getCenter() ?? [],
        resolution = view.getResolution() ?? 1;
      const to =
        x !== undefined && y !== undefined && size?.[0] && size[1]
          ? squared([x, y], resolution, [size[0], size[1]], window.devicePixelRatio)
          : null;
      if (to) view.setCenter(to);
    });
    view.on("change:resolution", () =>
      setZoomed(1 / ((view.getResolution() ?? 1) * window.devicePixelRatio)),
    );
    // Who joins late finds the view where the others stand.
    if (linked) setZoomed(1 / ((view.getResolution() ?? 1) * window.devicePixelRatio));
    map.current = made;
    const leads = link && !linked;
    if (leads) link.view = view;
    return () => {
      if (leads) link.view = null;
      made.setTarget(undefined);
      made.dispose();
      map.current = null;
      own.clear();
    };
  }, [target, width, height, link]);

  // Which images are drawn, and which of them is seen.
  useEffect(() => {
    wanted.current = shown;
    const made = map.current;
    if (!made) return;
    const keep = [shown.image, ...shown.ready.filter((image) => image.id !== shown.image.id)];
    const over =
      shown.wiped && shown.wiped.image.id !== shown.image.id ? shown.wiped.image.id : null;
    for (const [id, layer] of layers.current) {
      if (layer instanceof TileLayer) {
        layer.setOpacity(id === shown.image.id || id === over ? 1 : 0);
        layer.setZIndex(id === over ? 2 : 0);
        // What is looked at comes first; what is only kept ready waits until that stands.
        layer.setVisible(
          id === shown.image.id ||
            id === over ||
            (settledFor === token && keep.some((image) => image.id === id)),
        );
      }
    }
    for (const image of keep) {
      if (layers.current.has(image.id) || !image.ready) continue;
      layers.current.set(image.id, "coming");
      sourceOf(image)
        .then((source) => {
          if (map.current !== made) return;
          const seen = wanted.current.image.id === image.id;
          const layer = new TileLayer({
            source,
            opacity: seen ? 1 : 0,
            visible: seen || isOver(wanted.current, image.id),
            properties: { image: image.id },
          });
          if (!image.partial)
            source.on("tileloaderror", () =>
              setTrouble(
                `A part of ${image.name} could not be fetched. Nothing is lost; it is tried again when you move.`,
              ),
            );
          layer.on("prerender", (event) => clipped(event, wanted.current, image.id));
          layer.on("postrender", (event) => {
            if (
              isOver(wanted.current, image.id) &&
              event.context instanceof CanvasRenderingContext2D
            )
              event.context.restore();
          });
          layers.current.set(image.id, layer);
          made.addLayer(layer);
          setCame((count) => count + 1);
          setTrouble(null);
        })
        .catch((error: Error) => {
          layers.current.delete(image.id);
          setTrouble(error.message);
        });
    }
  });

  // The line moves without anything being fetched.
  const wipe = shown.wiped?.wipe;
  useEffect(() => {
    map.current?.render();
  }, [wipe?.position, wipe?.angle, shown.wiped?.image.id, shown.image.id]);

  // What differs, worked out from the tiles that are drawn.
  const { against } = shown;
  const [measure, amplified, first, second] = [
    against?.measure,
    against?.amplified,
    against?.image.id,
    shown.image.id,
  ];
  useEffect(() => {
    const made = map.current;
    if (!made || measure === undefined || amplified === undefined || first === undefined)
      return undefined;
    const [a, b] = [layers.current.get(first), layers.current.get(second)];
    const [from, to] = [
      a instanceof TileLayer ? a.getSource() : null,
      b instanceof TileLayer ? b.getSource() : null,
    ];
    if (!from || !to) return undefined;
    const raster = new RasterSource({
      sources: [from, to],
      threads: 0,
      operationType: "pixel",
      operation: (pixels) =>
        differing(pixels[0] as number[], pixels[1] as number[], measure, amplified),
    });
    const layer = new ImageLayer({ source: raster, zIndex: 3 });
    made.addLayer(layer);
    return () => {
      made.removeLayer(layer);
      raster.dispose();
    };
  }, [measure, amplified, first, second, came]);

  // Position and zoom stay put when anything else changes.
  const { at, zoom, box, follows, delivery } = shown;
  const lookingAt = useRef("");
  useEffect(() => {
    const made = map.current;
    // Whoever follows moves with the view; but where the view stays as it was nothing would be drawn, and nobody notified that it stands.
    if (made && follows) made.render();
    if (!made || follows || lookingAt.current === `${at}|${width}x${height}`) return undefined;
    const look = () => {
      const size = made.getSize();
      if (!size || !size[0] || !size[1]) return false;
      const to = lookAt(
        zoom,
        [width, height],
        box,
        [size[0], size[1]],
        window.devicePixelRatio,
        delivery,
      );
      made.getView().setCenter(to.center);
      made.getView().setResolution(to.resolution);
      setZoomed(1 / (to.resolution * window.devicePixelRatio));
      lookingAt.current = `${at}|${width}x${height}`;
      // Where the new place is the old one nothing would be drawn, and nobody notified that it stands at full sharpness.
      made.render();
      return true;
    };
    if (look()) return undefined;
    const later = () => void look();
    made.once("change:size", later);
    return () => made.un("change:size", later);
  }, [at, zoom, box, width, height, follows, delivery]);

  // What one will probably look at next is fetched into the browser's cache.
  const soon = shown.soon?.map((one) => `${one.image.id} ${one.box.join(" ")}`).join();
  const fetched = useRef(new Set<string>());
  const stands = settledFor === token;
  useEffect(() => {
    if (!stands || !soon) return undefined;
    const later = setTimeout(() => {
      const size = map.current?.getSize();
      if (!map.current || !size?.[0] || !size[1]) return;
      const projection = map.current.getView().getProjection();
      for (const { image, box: place } of wanted.current.soon ?? []) {
        const layer = layers.current.get(image.id),
          source = layer instanceof TileLayer ? (layer.getSource() as IIIF | null) : null,
          grid = source?.getTileGrid();
        if (!source || !grid) continue;
        const {
          center: [x, y],
          resolution,
        } = lookAt(
          zoom,
          [width, height],
          place,
          [size[0], size[1]],
          window.devicePixelRatio,
          delivery,
        );
        const [across, down] = [(size[0] / 2) * resolution, (size[1] / 2) * resolution];
        grid.forEachTileCoord(
          [x - across, y - down, x + across, y + down],
          grid.getZForResolution(resolution, source.zDirection),
          (at) => {
            const url = source.getTileUrlFunction()(at, 1, projection);
            if (!url || fetched.current.has(url)) return;
            fetched.current.add(url);
            void fetch(url, { credentials: "same-origin", priority: "low" }).catch(() =>
              fetched.current.delete(url),
            );
          },
        );
      }
    }, 250);
    return () => clearTimeout(later);
  }, [stands, soon, zoom, width, height, delivery]);

  const outlining = Boolean(shown.onOutline);
  useEffect(() => {
    const made = map.current;
    if (!made || !outlining) return undefined;
    const draw = new Draw({ type: "Polygon", freehand: true, style: sketched });
    draw.on("drawend", (event) => {
      const drawn = event.feature.getGeometry() as Polygon;
      wanted.current.onOutline?.(
        thinned((drawn.getCoordinates()[0] ?? []).map(([x = 0, y = 0]) => [x, -y])),
      );
    });
    made.addInteraction(draw);
    return () => void made.removeInteraction(draw);
  }, [outlining, width, height, link]);

  // A tool is set up anew only where it becomes another one; what it calls is always the latest.
  const { tool } = shown;
  const toolKey = tool ? `${tool.kind} ${tool.radius ?? ""} ${tool.at ?? ""}` : null;
  useEffect(() => {
    const made = map.current;
    if (!made || toolKey === null) return undefined;
    return interactionsOf(made, () => wanted.current.tool ?? null);
  }, [toolKey, width, height, link]);

  useEffect(() => {
    marks.current.clear(true);
    marks.current.addFeatures(shown.marks);
  }, [shown.marks]);

  return { settled: settledFor === token, trouble, zoomed };
}
