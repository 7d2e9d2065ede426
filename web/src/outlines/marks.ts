import Feature from "ol/Feature";
import Point from "ol/geom/Point";
import Polygon from "ol/geom/Polygon";
import Fill from "ol/style/Fill";
import RegularShape from "ol/style/RegularShape";
import Stroke from "ol/style/Stroke";
import Style from "ol/style/Style";
import Text from "ol/style/Text";
import type { OutlinedRegion } from "../api/outlines";
import { toMap } from "../stage/strokes";
import type { Area } from "./state";

const strokes = (width: number, dash?: number[]) => [
  new Style({ stroke: new Stroke({ color: "#000", width: width + 2, lineDash: dash }) }),
  new Style({ stroke: new Stroke({ color: "#fff", width, lineDash: dash }) }),
];

function shapes(area: Area): Feature[] {
  return area.parts.map(
    (part) => new Feature(new Polygon([part.outer, ...part.holes].map((ring) => ring.map(toMap)))),
  );
}

/** What is being drawn: its outline, unfilled, so that its edge can be judged. */
export function drawnArea(area: Area): Feature[] {
  return shapes(area).map((feature) => {
    feature.setStyle(strokes(1.4));
    return feature;
  });
}

/** A region that is there, with its number. */
export function standing(region: OutlinedRegion, chosen: boolean): Feature[] {
  const features = shapes(region.area).map((feature) => {
    feature.setStyle(strokes(chosen ? 1.8 : 1, chosen ? undefined : [5, 5]));
    return feature;
  });
  const [x = 0, y = 0, width = 0] = region.area.bbox ?? [];
  const name = new Feature(new Point(toMap([x + width / 2, y])));
  name.setStyle(
    new Style({
      text: new Text({
        text: `${region.number} ${region.name}`,
        font: '600 13px "Commissioner Variable", sans-serif',
        fill: new Fill({ color: "#fff" }),
        stroke: new Stroke({ color: "#000", width: 4 }),
        offsetY: -10,
      }),
    }),
  );
  return [...features, name];
}

/** A place that an attempt changed and no region has. */
export function proposed(area: Area): Feature[] {
  return shapes(area).map((feature) => {
    feature.setStyle(strokes(1, [1, 4]));
    return feature;
  });
}

/** Where keys act. */
export function cross([x, y]: readonly [number, number]): Feature {
  const feature = new Feature(new Point(toMap([x + 0.5, y + 0.5])));
  const arms = (width: number, color: string) =>
    new Style({
      image: new RegularShape({
        points: 4,
        radius: 12,
        radius2: 0,
        angle: 0,
        stroke: new Stroke({ color, width }),
      }),
    });
  feature.setStyle([arms(4, "#000"), arms(1.6, "#fff")]);
  return feature;
}
