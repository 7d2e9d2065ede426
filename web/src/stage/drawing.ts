import type OlMap from "ol/Map";
import type MapBrowserEvent from "ol/MapBrowserEvent";
import Collection from "ol/Collection";
import Feature from "ol/Feature";
import LineString from "ol/geom/LineString";
import Polygon from "ol/geom/Polygon";
import Draw from "ol/interaction/Draw";
import Modify from "ol/interaction/Modify";
import type Interaction from "ol/interaction/Interaction";
import VectorLayer from "ol/layer/Vector";
import VectorSource from "ol/source/Vector";
import Stroke from "ol/style/Stroke";
import Style from "ol/style/Style";
import type { StyleFunction } from "ol/style/Style";
import { thinned } from "./outline";
import { handles, sketched } from "./sketched";
import { toMap } from "./strokes";

type Points = number[][];
/** How one draws on the picture; points are [x, y] in its pixels. */
export type Tool = {
  kind: "around" | "corners" | "paint" | "spot" | "bend";
  /** Of the brush, in picture pixels. */
  radius?: number;
  /** Changes when a tool must begin anew, as with other rings. */
  at?: string;
  /** The outline whose points are moved. */
  rings?: Points[];
  /** One ring, one stroke, one spot, or all rings after a point was moved. */
  onDone: (drawn: Points[]) => void;
  /** Lets keys act on what is being drawn. */
  hand?: (hand: Hand | null) => void;
};
/** What keys do with a line of points that is being set. */
export type Hand = { set: (at: readonly [number, number]) => void; end: () => void };

const back = (coordinates: number[][]) => coordinates.map(([x = 0, y = 0]) => [x, -y]);
const tenth = (points: Points) =>
  points.map((point) => point.map((value) => Math.round(value * 10) / 10));

/** A stroke as wide as its brush, and where the brush would act. */
function painted(radius: number): StyleFunction {
  return (_, resolution) => {
    const width = Math.max(1, (2 * radius) / resolution);
    return [
      new Style({ stroke: new Stroke({ color: "rgba(0,0,0,.55)", width, lineCap: "round" }) }),
      new Style({
        stroke: new Stroke({
          color: "rgba(255,255,255,.5)",
          width: Math.max(1, width - 3),
          lineCap: "round",
        }),
      }),
    ];
  };
}

function drawing(tool: () => Tool | null, kind: "around" | "corners"): Draw {
  const draw = new Draw({
    type: "Polygon",
    freehand: kind === "around",
    style: kind === "around" ? sketched : [...sketched, ...handles],
    stopClick: true,
  });
  draw.on("drawend", (event) => {
    const ring = back((event.feature.getGeometry() as Polygon).getCoordinates()[0] ?? []);
    tool()?.onDone([thinned(ring)]);
  });
  return draw;
}

function painting(tool: () => Tool | null, radius: number): Draw {
  const draw = new Draw({
    type: "LineString",
    freehand: true,
    style: painted(radius),
    stopClick: true,
  });
  draw.on("drawend", (event) => {
    const line = back((event.feature.getGeometry() as LineString).getCoordinates());
    tool()?.onDone([tenth(line)]);
  });
  return draw;
}

function bending(made: OlMap, tool: () => Tool | null): { interaction: Modify; end: () => void } {
  // So few points that each can be taken hold of; what lies between them strays by a pixel of the screen.
  const stray = Math.max(0.8, 1.2 * (made.getView().getResolution() ?? 1));
  const features = (tool()?.rings ?? []).map((ring) => {
    const line = new LineString([...ring, ...ring.slice(0, 1)].map(toMap));
    const simple = (line.simplify(stray) as LineString).getCoordinates();
    return new Feature(new Polygon([simple.length > 3 ? simple : line.getCoordinates()]));
  });
  const layer = new VectorLayer({
    source: new VectorSource({ features }),
    zIndex: 11,
    style: [...sketched, ...handles],
  });
  made.addLayer(layer);
  const interaction = new Modify({ features: new Collection(features), pixelTolerance: 9 });
  interaction.on("modifyend", () =>
    tool()?.onDone(
      features.map((feature) =>
        tenth(back(feature.getGeometry()?.getCoordinates()[0] ?? [])).slice(0, -1),
      ),
    ),
  );
  return { interaction, end: () => void made.removeLayer(layer) };
}

/** Set a tool up on the map; returns how it is put away. */
export function interactionsOf(made: OlMap, tool: () => Tool | null): () => void {
  const now = tool();
  if (!now) return () => undefined;
  if (now.kind === "spot") {
    const clicked = (event: MapBrowserEvent) => {
      const [x = 0, y = 0] = event.coordinate;
      tool()?.onDone([[[Math.floor(x), Math.floor(-y)]]]);
    };
    made.on("singleclick", clicked);
    return () => made.un("singleclick", clicked);
  }
  let interaction: Interaction;
  let end: () => void = () => undefined;
  if (now.kind === "bend") ({ interaction, end } = bending(made, tool));
  else {
    const draw = now.kind === "paint" ? painting(tool, now.radius ?? 8) : drawing(tool, now.kind);
    if (now.kind === "corners") {
      now.hand?.({
        set: (at) => draw.appendCoordinates([toMap(at)]),
        end: () => draw.finishDrawing(),
      });
    }
    interaction = draw;
  }
  made.addInteraction(interaction);
  return () => {
    now.hand?.(null);
    made.removeInteraction(interaction);
    end();
  };
}
