import Feature from "ol/Feature";
import LineString from "ol/geom/LineString";
import Point from "ol/geom/Point";
import Polygon from "ol/geom/Polygon";
import Fill from "ol/style/Fill";
import Style from "ol/style/Style";
import type { Finding, Region } from "../api/client";
import { number } from "../ui/words";
import { corners, dark, double, labelled, light, line, ring, toMap } from "./strokes";

const middle = ([x = 0, y = 0, w = 0, h = 0]: readonly number[]) => [x + w / 2, y + h / 2];

type Copy = {
  type: "copy";
  copy: number[];
  source: number[];
  mirrored: boolean;
  source_polygon?: number[][];
  turned_degrees?: number;
};
/** What a line may do wrong: missing, jumping off, turning away, tilted between its ends, swinging, or off its vanishing point. */
export type LineFlaw =
  "missing" | "offset" | "kink" | "tilt" | "wave" | "course" | "scale" | "shear";
type Along = { value: number[]; low: number[]; high: number[]; outward: number[][] };
type Rim = {
  type: "rim";
  what: "step" | "cut" | "ring";
  line: number[][];
  strip?: Along;
  profile?: { offset_px: number[]; lightness: number[] };
};
type Lines = {
  type: "line";
  what: LineFlaw;
  whole?: boolean;
  lines: { ends: number[][]; trace: number[][]; straight: number[][]; amount: number }[];
};
export type Evidence = Copy | Rim | Lines | { type: string };

/** How far beside a rim its line is drawn, pixels of the screen. */
const RIM = 5;
/** Pixels of the screen: how far from the rim the strip begins, how high its highest place stands, how far the profile swings. */
const [AWAY, HIGH, SWING] = [8, 24, 26];

/** The measure along a stretch of rim, as a strip that runs outside along it, with the band of what is natural; its size is the screen's, whatever the zoom. */
export function stripAlong(
  points: readonly (readonly number[])[],
  { value, low, high, outward }: Along,
): Feature {
  const top = Math.max(...value, ...high) || 1;
  const at = (resolution: number, i: number, part: number): [number, number] => {
    const [x = 0, y = 0] = points[i] ?? [],
      [nx = 0, ny = 0] = outward[i] ?? [],
      off = (AWAY + HIGH * part) * resolution;
    return toMap([x + nx * off, y + ny * off]);
  };
  const between = (resolution: number, from: (i: number) => number, to: (i: number) => number) =>
    new Polygon([
      [
        ...points.map((_, i) => at(resolution, i, from(i))),
        ...points.map((_, i) => at(resolution, i, to(i))).reverse(),
      ],
    ]);
  const feature = new Feature({ geometry: new LineString(points.map(toMap)), drawn: "strip" });
  feature.setStyle((_, resolution) => [
    new Style({
      geometry: between(
        resolution,
        () => 0,
        () => 1,
      ),
      fill: new Fill({ color: "rgba(0, 0, 0, 0.5)" }),
    }),
    new Style({
      geometry: between(
        resolution,
        (i) => (low[i] ?? 0) / top,
        (i) => (high[i] ?? 0) / top,
      ),
      fill: new Fill({ color: "rgba(255, 255, 255, 0.45)" }),
    }),
    new Style({
      geometry: new LineString(points.map((__, i) => at(resolution, i, (value[i] ?? 0) / top))),
      stroke: light(2),
    }),
  ]);
  return feature;
}

/** A stretch of rim, drawn a little outside it: a mark must not cover the very rim it speaks of. */
function beside(
  points: readonly (readonly number[])[],
  outward: readonly (readonly number[])[] | undefined,
  dash?: number[],
): Feature {
  if (!outward) return line(points, dash);
  const feature = new Feature({ geometry: new LineString(points.map(toMap)), drawn: "rim" });
  const styles = double(dash);
  feature.setStyle((_, resolution) => {
    const geometry = new LineString(
      points.map(([x = 0, y = 0], i) => {
        const [nx = 0, ny = 0] = outward[i] ?? [];
        return toMap([x + nx * RIM * resolution, y + ny * RIM * resolution]);
      }),
    );
    for (const style of styles) style.setGeometry(geometry);
    return styles;
  });
  return feature;
}

/** A label moved out beyond a strip. */
function beyond(
  label: Feature,
  [x = 0, y = 0]: readonly number[],
  [nx = 0, ny = 0]: readonly number[],
): Feature {
  const style = label.getStyle() as Style,
    off = AWAY + HIGH + 12;
  label.setStyle((_, resolution) => {
    style.setGeometry(new Point(toMap([x + nx * off * resolution, y + ny * off * resolution])));
    return style;
  });
  return label;
}

/** Mean lightness across a rim, drawn across it at one point, at the picture's scale or large enough to be read: lighter swings on along the line. */
export function profileAcross(
  point: readonly number[],
  outward: readonly number[],
  profile: NonNullable<Rim["profile"]>,
): Feature {
  const [x = 0, y = 0] = point,
    [nx = 0, ny = 0] = outward;
  const low = Math.min(...profile.lightness),
    span = Math.max(2, Math.max(...profile.lightness) - low);
  const feature = new Feature({
    geometry: new LineString(
      [-1, 1].map((side) => toMap([x + side * 30 * nx, y + side * 30 * ny])),
    ),
    drawn: "profile",
  });
  feature.setStyle((_, resolution) => {
    const times = Math.max(1, 1.5 * resolution);
    const swung = profile.offset_px.map((off, i) => {
      const swing = (((profile.lightness[i] ?? low) - low) / span) * SWING * resolution;
      return toMap([x + off * times * nx - swing * ny, y + off * times * ny + swing * nx]);
    });
    const ends = [-30, 30].map((off) => toMap([x + off * times * nx, y + off * times * ny]));
    const whole = [ends[0] ?? [0, 0], ...swung, ends[1] ?? [0, 0]];
    return [
      new Style({
        geometry: new Polygon([whole]),
        fill: new Fill({ color: "rgba(0, 0, 0, 0.5)" }),
      }),
      ...double().map((style) => {
        style.setGeometry(new LineString(swung));
        return style;
      }),
    ];
  });
  return feature;
}

/** A finding's evidence as things to draw on the picture. */
export function drawn(finding: Finding): Feature[] {
  const evidence = finding.evidence as unknown as Evidence;
  if (evidence.type === "copy") {
    const { copy, source, mirrored, source_polygon } = evidence as Copy;
    return [
      line([middle(source), middle(copy)], [7, 5]),
      ring(source_polygon ?? corners(source), [7, 5]),
      ring(finding.polygon),
      labelled(mirrored ? "source, mirrored" : "source", [source[0] ?? 0, source[1] ?? 0]),
      labelled("copy", [copy[0] ?? 0, copy[1] ?? 0]),
    ];
  }
  if (evidence.type === "rim") {
    const { line: points, what, strip, profile } = evidence as Rim;
    // Where it stands out most over what is natural.
    const over = strip ? strip.value.map((one, i) => one - (strip.high[i] ?? 0)) : [],
      most = Math.max(0, over.indexOf(Math.max(...over)));
    const at = points[most] ?? [0, 0],
      out = strip?.outward[most] ?? [0, 0];
    return [
      beside(points, strip?.outward, what === "ring" ? undefined : [10, 4]),
      ...(strip && points.length > 1
        ? [
            stripAlong(points, strip),
            ...(profile ? [profileAcross(at, out, profile)] : []),
            beyond(
              labelled(
                `${number(strip.value[most] ?? 0)} against ${number(strip.high[most] ?? 0)}`,
                at,
              ),
              at,
              out,
            ),
          ]
        : []),
    ];
  }
  if (evidence.type === "line") {
    // Where it should run, dashed; where it was found, drawn through; how far apart, at its end.
    const { lines, what, whole } = evidence as Lines;
    const unit = {
      missing: "gone",
      offset: "px",
      wave: "px",
      kink: "°",
      tilt: "°",
      course: "°",
      scale: "px",
      shear: "px",
    }[what];
    return lines.slice(0, whole ? 12 : 8).flatMap(({ straight, trace, ends, amount }, i) => [
      line(straight, [6, 5]),
      ...(trace.length > 1 ? [line(trace)] : []),
      // A fill that lies off as a whole jumps everywhere: said once, where it is clearest.
      ...(whole && i > 0
        ? []
        : [
            labelled(
              what === "missing"
                ? `${Math.round(amount * 100)} % gone`
                : `${amount.toLocaleString(undefined, { maximumFractionDigits: 1 })} ${whole ? "px" : unit}`,
              ends[0] ?? [0, 0],
            ),
          ]),
    ]);
  }
  return [ring(finding.polygon)];
}

/** A place by its ring of points. */
export function ringed(points: readonly (readonly number[])[]): Feature {
  return ring(points);
}

/** A region's outline: thin, so that it does not hide what it encloses. */
export function outlined(region: Pick<Region, "outlines">): Feature {
  const feature = new Feature(new Polygon(region.outlines.map((points) => points.map(toMap))));
  feature.setStyle([new Style({ stroke: dark(2.5) }), new Style({ stroke: light(1, [3, 5]) })]);
  return feature;
}
