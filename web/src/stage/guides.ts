import Feature from "ol/Feature";
import LineString from "ol/geom/LineString";
import MultiLineString from "ol/geom/MultiLineString";
import { corners, double, labelled, line, ring, toMap } from "./strokes";

type Box = readonly number[];

/** A place that nothing is taken from: crossed out. */
export function crossedOut(box: Box): Feature[] {
  const [x = 0, y = 0, w = 0, h = 0] = box;
  const cross = new Feature(
    new MultiLineString([
      [toMap([x, y]), toMap([x + w, y + h])],
      [toMap([x + w, y]), toMap([x, y + h])],
    ]),
  );
  cross.setStyle(double([5, 5]));
  return [ring(corners(box)), cross];
}

/** A place to take it from: dashed, and named. */
export const takenFrom = (box: Box): Feature[] => [
  ring(corners(box), [7, 4]),
  labelled("from here", [(box[0] ?? 0) + (box[2] ?? 0) / 2, box[1] ?? 0]),
];

/** A direction, with a head at its end that is as large at every zoom. */
export function directed([x0 = 0, y0 = 0, x1 = 0, y1 = 0]: Box): Feature[] {
  const shaft = line([
    [x0, y0],
    [x1, y1],
  ]);
  const angle = Math.atan2(y1 - y0, x1 - x0);
  const head = new Feature(new LineString([toMap([x1, y1]), toMap([x1, y1])]));
  head.setStyle((_, resolution) =>
    double().map((style) => {
      const wing = (turn: number) =>
        toMap([
          x1 - 12 * resolution * Math.cos(angle + turn),
          y1 - 12 * resolution * Math.sin(angle + turn),
        ]);
      style.setGeometry(new LineString([wing(0.5), toMap([x1, y1]), wing(-0.5)]));
      return style;
    }),
  );
  return [shaft, head];
}
