import Feature from "ol/Feature";
import LineString from "ol/geom/LineString";
import Point from "ol/geom/Point";
import Polygon from "ol/geom/Polygon";
import Fill from "ol/style/Fill";
import Stroke from "ol/style/Stroke";
import Style from "ol/style/Style";
import Text from "ol/style/Text";

/** The core's coordinates run down from the top left corner; the map's run up from the bottom. */
export const toMap = ([x, y]: readonly number[]): [number, number] => [x ?? 0, 0 - (y ?? 0)];

export const dark = (width: number, dash?: number[]) =>
  new Stroke({ color: "#000", width, lineDash: dash });
export const light = (width: number, dash?: number[]) =>
  new Stroke({ color: "#fff", width, lineDash: dash });
/** Two strokes, so that a mark is seen on any ground. */
export const double = (dash?: number[]) => [
  new Style({ stroke: dark(4) }),
  new Style({ stroke: light(1.8, dash) }),
];

export function labelled(text: string, at: readonly number[]): Feature {
  const feature = new Feature(new Point(toMap(at)));
  feature.setStyle(
    new Style({
      text: new Text({
        text,
        font: '600 13px "Commissioner Variable", sans-serif',
        fill: new Fill({ color: "#fff" }),
        stroke: new Stroke({ color: "#000", width: 4 }),
        offsetY: -10,
      }),
    }),
  );
  return feature;
}

export function ring(points: readonly (readonly number[])[], dash?: number[]): Feature {
  const feature = new Feature(new Polygon([points.map(toMap)]));
  feature.setStyle(double(dash));
  return feature;
}

export function line(points: readonly (readonly number[])[], dash?: number[]): Feature {
  const feature = new Feature(new LineString(points.map(toMap)));
  feature.setStyle(double(dash));
  return feature;
}

export const corners = ([x = 0, y = 0, w = 0, h = 0]: readonly number[]) => [
  [x, y],
  [x + w, y],
  [x + w, y + h],
  [x, y + h],
];
