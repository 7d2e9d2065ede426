import { expect, test } from "vitest";
import type { Footage } from "../api/shots";
import { unfit } from "./ShotAnswer";

const footage = (frames: number, width = 640, height = 360) =>
  ({ frames, width, height }) as Footage;

test("footage of as many frames of the same size can answer a slip", () => {
  expect(unfit(footage(24), footage(24))).toBe("");
});

test("it is said what differs before anything is handed in", () => {
  expect(unfit(footage(24), footage(1))).toBe("has 1 frame, what was sent 24");
  expect(unfit(footage(24), footage(24, 320, 180))).toBe("is 320 × 180, what was sent 640 × 360");
});
