import Feature from "ol/Feature";
import LineString from "ol/geom/LineString";
import Point from "ol/geom/Point";
import Polygon from "ol/geom/Polygon";
import Fill from "ol/style/Fill";
import Stroke from "ol/style/Stroke";
import Style from "ol/style/Style";
import Text from "ol/style/Text";
import type { Finding, Region } from "../api/client";

/** The core's coordinates run down from the top left corner; the map's run up from the bottom. */
export const toMap = ([x, y]: readonly number[]): [number, number] => [x ?? 0, 0 - (y ?? 0)];

const dark = (width: number, dash?: number[]) => new Stroke({ color: "#000", width, lineDash: dash });
const light = (width: number, dash?: number[]) => new Stroke({ color: "#fff", width, lineDash: dash });
/** Two strokes, so that a mark is seen on any ground. */
const double = (dash?: number[]) => [new Style({ stroke: dark(4) }), new Style({ stroke: light(1.8, dash) })];

function labelled(text: string, at: readonly number[]): Feature {
  const feature = new Feature(new Point(toMap(at)));
  feature.setStyle(new Style({
    text: new Text({ text, font: '600 13px "Commissioner Variable", sans-serif', fill: new Fill({ color: "#fff" }), stroke: new Stroke({ color: "#000", width: 4 }), offsetY: -10 }),
  }));
  return feature;
}

function ring(points: readonly (readonly number[])[], dash?: number[]): Feature {
  const feature = new Feature(new Polygon([points.map(toMap)]));
  feature.setStyle(double(dash));
  return feature;
}

function line(points: readonly (readonly number[])[], dash?: number[]): Feature {
  const feature = new Feature(new LineString(points.map(toMap)));
  feature.setStyle(double(dash));
  return feature;
}

const corners = ([x = 0, y = 0, w = 0, h = 0]: readonly number[]) => [[x, y], [x + w, y], [x + w, y + h], [x, y + h]];
const middle = ([x = 0, y = 0, w = 0, h = 0]: readonly number[]) => [x + w / 2, y + h / 2];

type Copy = { type: "copy"; copy: number[]; source: number[]; mirrored: boolean; source_polygon?: number[][]; turned_degrees?: number };
/** What a line may do wrong: missing, aside, turning away, tilted between its ends, swinging, or off its vanishing point. */
export type LineFlaw = "missing" | "offset" | "kink" | "tilt" | "wave" | "course";
type Rim = { type: "rim"; what: "step" | "cut" | "ring"; line: number[][] };
type Lines = { type: "line"; what: LineFlaw; lines: { ends: number[][]; trace: number[][]; straight: number[][]; amount: number }[] };
export type Evidence = Copy | Rim | Lines | { type: string };

/** A finding's evidence as things to draw on the picture. */
export function drawn(finding: Finding): Feature[] {
  const evidence = finding.evidence as unknown as Evidence;
  if (evidence.type === "copy") {
    const { copy, source, mirrored, source_polygon } = evidence as Copy;
    return [line([middle(source), middle(copy)], [7, 5]), ring(source_polygon ?? corners(source), [7, 5]), ring(finding.polygon),
      labelled(mirrored ? "source, mirrored" : "source", [source[0] ?? 0, source[1] ?? 0]), labelled("copy", [copy[0] ?? 0, copy[1] ?? 0])];
  }
  if (evidence.type === "rim") {
    const { line: points, what } = evidence as Rim;
    return [line(points, what === "ring" ? undefined : [10, 4])];
  }
  if (evidence.type === "line") {
    // Where it should run, dashed; where it was found, drawn through; how far apart, at its end.
    const { lines, what } = evidence as Lines;
    const unit = { missing: "gone", offset: "px", wave: "px", kink: "°", tilt: "°", course: "°" }[what];
    return lines.slice(0, 8).flatMap(({ straight, trace, ends, amount }) => [
      line(straight, [6, 5]), ...(trace.length > 1 ? [line(trace)] : []),
      labelled(what === "missing" ? `${Math.round(amount * 100)} % gone` : `${amount.toLocaleString(undefined, { maximumFractionDigits: 1 })} ${unit}`, ends[0] ?? [0, 0]),
    ]);
  }
  return [ring(finding.polygon)];
}

/** A place by its ring of points. */
export function ringed(points: readonly (readonly number[])[]): Feature {
  return ring(points);
}

/** A region's outline: thin, so that it does not hide what it encloses. */
export function outlined(region: Region): Feature {
  const feature = new Feature(new Polygon(region.outlines.map((points) => points.map(toMap))));
  feature.setStyle([new Style({ stroke: dark(2.5) }), new Style({ stroke: light(1, [3, 5]) })]);
  return feature;
}
