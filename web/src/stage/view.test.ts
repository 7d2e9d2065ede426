import { describe, expect, it } from "vitest";
import { aligned, lookAt, resolutionOf, deliveryResolution, squared } from "./view";

const frame = [6000, 4000] as const;
const box = [1000, 500, 301, 201] as const;
const stage = [983, 707] as const;

describe("where the stage looks", () => {
  it("shows one picture pixel on one screen pixel at 100 %, whatever the screen's density", () => {
    for (const ratio of [1, 1.5, 2, 3]) expect(resolutionOf("actual", ratio) * ratio).toBe(1);
    expect(resolutionOf("double", 2)).toBe(0.25);
  });

  it("lets picture pixels and screen pixels share their edges", () => {
    for (const extent of [983, 984, 707, 1]) {
      const center = aligned(1150.5, 1, extent);
      expect(Number.isInteger(center - extent / 2)).toBe(true);
      expect(Math.abs(center - 1150.5)).toBeLessThanOrEqual(1);
    }
  });

  it("moves the centre onto whole pixels after a drag or when the stage became narrower, and leaves other zooms alone", () => {
    const to = squared([1150.3, -600.8], 1, [492, 574], 1);
    expect(to && Number.isInteger(to[0]) && Number.isInteger(to[1])).toBe(true);
    expect(squared(to ?? [0, 0], 1, [492, 574], 1)).toBeNull();
    expect(squared([1150.25, -600.25], 0.5, [984, 574], 1)).toEqual([1150.5, -600]);
    for (const resolution of [1.7, 0.7, 2])
      expect(squared([1150.3, -600.8], resolution, [492, 574], 1)).toBeNull();
    expect(squared([1150.3, -600.8], 0.5, [492, 574], 2)).not.toBeNull();
  });

  it("fits the whole picture, and the region with room around it", () => {
    const whole = lookAt("whole", frame, box, stage, 1);
    expect(whole).toEqual({ center: [3000, -2000], resolution: Math.max(6000 / 983, 4000 / 707) });
    const region = lookAt("region", frame, box, stage, 1);
    expect(region.center).toEqual([1150.5, -600.5]);
    expect(region.resolution * stage[0]).toBeGreaterThan(box[2]);
  });

  it("never enlarges a tiny region beyond 200 %", () => {
    expect(lookAt("region", frame, [10, 10, 2, 2], stage, 1).resolution).toBe(0.5);
  });
});

describe("the delivery size", () => {
  it("shows a print as large as on paper, by this screen's own measure", () => {
    // 6000 px over 594 mm on a screen of 4 px a millimetre: 2376 px wide.
    expect(6000 / deliveryResolution({ scale: 0.58, millimetres: 594 / 6000 }, 4, 2)).toBeCloseTo(
      2376,
    );
  });
  it("shows a screen size with one output pixel on each of the screen's", () => {
    expect(6000 / deliveryResolution({ scale: 0.18, millimetres: null }, 4, 2)).toBeCloseTo(
      540 * 4,
    );
    expect(
      lookAt("delivery", [6000, 4000], [100, 100, 50, 50], [800, 600], 1, 2.5).resolution,
    ).toBe(2.5);
  });
});
