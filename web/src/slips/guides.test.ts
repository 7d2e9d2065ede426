import { expect, test } from "vitest";
import { boxAround, degreesOf, drawnOf, lineAlong, withDrawn, withoutLast } from "./guides";

const ring = [
  [10.4, 20.6],
  [30.2, 21],
  [29, 40.1],
];

test("an area that is drawn becomes the box around it, in whole pixels", () => {
  expect(boxAround(ring)).toEqual([10, 20, 21, 21]);
  expect(
    boxAround([
      [5, 5],
      [6, 6],
    ]),
  ).toBeNull();
});

test("a direction is the line from where one began to where one ended", () => {
  expect(
    lineAlong([
      [0, 0],
      [50, 3],
      [100, 100],
    ]),
  ).toEqual([0, 0, 100, 100]);
  expect(
    lineAlong([
      [0, 0],
      [2, 2],
    ]),
  ).toBeNull();
});

test("a line has the same degrees either way along it", () => {
  expect(degreesOf([0, 0, 10, 10])).toBe(45);
  expect(degreesOf([10, 10, 0, 0])).toBe(45);
  expect(degreesOf([0, 0, 10, 0])).toBe(0);
  expect(degreesOf([0, 10, 0, 0])).toBe(90);
});

test("what is drawn is carried by one change, which is added where it is missing", () => {
  const first = withDrawn([], "keep sources out", ring);
  expect(first).toEqual([
    { what: "keep sources out", values: { boxes: [[10, 20, 21, 21]] }, because: [], why: "" },
  ]);
  const both = withDrawn(first, "keep sources out", ring);
  expect(both).toHaveLength(1);
  expect(drawnOf(both, "keep sources out")).toBe(2);
});

test("a direction brings its degrees along, and takes them away again", () => {
  const one = withDrawn(
    [{ what: "follow the line", values: { degrees: [12] }, because: ["line"], why: "so" }],
    "follow the line",
    [
      [0, 0],
      [20, 20],
    ],
  );
  expect(one[0]?.values).toEqual({ degrees: [12, 45], lines: [[0, 0, 20, 20]] });
  expect(withoutLast(one, "follow the line")[0]?.values).toEqual({ degrees: [12], lines: [] });
});

test("the last area taken away takes its change away", () => {
  expect(withoutLast(withDrawn([], "take from here", ring), "take from here")).toEqual([]);
});
