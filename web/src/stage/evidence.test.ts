import type Point from "ol/geom/Point";
import type LineString from "ol/geom/LineString";
import type Polygon from "ol/geom/Polygon";
import type Style from "ol/style/Style";
import { describe, expect, it } from "vitest";
import type { Finding } from "../api/client";
import { drawn, outlined } from "./evidence";
import { toMap } from "./strokes";

describe("evidence on the picture", () => {
  it("turns the core's downward coordinates into the map's", () => {
    expect(toMap([12, 34])).toEqual([12, -34]);
  });

  it("joins a copy with its source", () => {
    const finding = {
      polygon: [
        [10, 10],
        [30, 10],
        [30, 30],
      ],
      evidence: {
        type: "copy",
        copy: [10, 10, 20, 20],
        source: [110, 50, 20, 20],
        mirrored: false,
      },
    } as unknown as Finding;
    const [join, source, copy] = drawn(finding);
    expect((join?.getGeometry() as LineString).getCoordinates()).toEqual([
      [120, -60],
      [20, -20],
    ]);
    expect((source?.getGeometry() as Polygon).getExtent()).toEqual([110, -70, 130, -50]);
    expect((copy?.getGeometry() as Polygon).getExtent()).toEqual([10, -30, 30, -10]);
  });

  it("draws a rim as the line it was found along, and what it does not know as its outline", () => {
    const rim = {
      polygon: [],
      evidence: {
        type: "rim",
        what: "ring",
        line: [
          [1, 2],
          [3, 4],
        ],
      },
    } as unknown as Finding;
    expect((drawn(rim)[0]?.getGeometry() as LineString).getCoordinates()).toEqual([
      [1, -2],
      [3, -4],
    ]);
    const other = {
      polygon: [
        [0, 0],
        [4, 0],
        [4, 4],
      ],
      evidence: { type: "else" },
    } as unknown as Finding;
    expect((drawn(other)[0]?.getGeometry() as Polygon).getExtent()).toEqual([0, -4, 4, 0]);
  });

  it("draws a broken line where it should run and where it was found, with how far apart", () => {
    const line = {
      ends: [
        [0, 0],
        [40, 0],
      ],
      straight: [
        [0, 0],
        [40, 0],
      ],
      trace: [
        [8, 4],
        [32, 4],
      ],
      amount: 4.2,
    };
    const finding = (what: string, amount: number) =>
      ({
        polygon: [],
        evidence: {
          type: "line",
          what,
          lines: [{ ...line, amount, trace: what === "missing" ? [] : line.trace }],
        },
      }) as unknown as Finding;
    const [straight, trace, label] = drawn(finding("offset", 4.2));
    expect((straight?.getGeometry() as LineString).getCoordinates()).toEqual([
      [0, 0],
      [40, 0],
    ]);
    expect((trace?.getGeometry() as LineString).getCoordinates()).toEqual([
      [8, -4],
      [32, -4],
    ]);
    expect((label?.getStyle() as Style).getText()?.getText()).toBe("4.2 px");
    expect(drawn(finding("missing", 0.87))).toHaveLength(2);
    expect((drawn(finding("course", 3.1))[2]?.getStyle() as Style).getText()?.getText()).toBe(
      "3.1 °",
    );
  });

  it("outlines a region", () => {
    const feature = outlined({
      outlines: [
        [
          [0, 0],
          [10, 0],
          [10, 5],
        ],
      ],
    });
    expect((feature.getGeometry() as Polygon).getExtent()).toEqual([0, -5, 10, 0]);
  });

  it("draws the measure along a rim as a strip outside it, as high on the screen at every zoom, and the profile across its end", () => {
    const evidence = {
      type: "rim",
      what: "step",
      line: [
        [0, 0],
        [10, 0],
        [20, 0],
      ],
      strip: {
        value: [1, 4, 2],
        low: [0.5, 0.5, 0.5],
        high: [2, 2, 2],
        outward: [
          [0, -1],
          [0, -1],
          [0, -1],
        ],
      },
      profile: { offset_px: [-1, 0, 1], lightness: [50, 50, 60] },
    };
    const [, strip, profile, label] = drawn({ polygon: [], evidence } as unknown as Finding);
    const styled = (feature: typeof strip, resolution: number) =>
      (feature?.getStyleFunction()?.(feature, resolution) ?? []) as Style[];
    for (const resolution of [0.5, 1, 2]) {
      const [ground, natural, value] = styled(strip, resolution).map(
        (style) => style.getGeometry() as Polygon | LineString,
      );
      // Out is up here: eight pixels of the screen away, twenty-four high, the second point highest.
      expect(ground?.getExtent()).toEqual([0, 8 * resolution, 20, 32 * resolution]);
      expect((value as LineString).getCoordinates().map(([, y = 0]) => y / resolution)).toEqual([
        14, 32, 20,
      ]);
      expect(natural?.getExtent()[3]).toBe(20 * resolution);
    }
    // At the second point, at the picture's scale where that is large enough to be read.
    const [, swung] = styled(profile, 0.5).map((style) => style.getGeometry() as LineString);
    expect(swung?.getCoordinates()).toEqual([
      [10, -1],
      [10, 0],
      [23, 1],
    ]);
    const [said] = [label?.getStyleFunction()?.(label, 1) as Style];
    expect(said?.getText()?.getText()).toBe("4 against 2");
    expect((said?.getGeometry() as Point).getCoordinates()).toEqual([10, 44]);
  });
});
