import { expect, test } from "vitest";
import type { Arrival, Intake } from "../api/client";
import { gathered, methodFrom, missing } from "./pairing";

const arrival = (id: number, name: string): Arrival => ({
  id,
  name,
  state: "ready",
  reason: "",
  size: 1,
  width: 10,
  height: 10,
  facts: "PNG, 8 bit",
  small: "",
  part: null,
  answers: null,
  kept_until: "2026-03-04T10:00:00Z",
  words: [],
});
const intake: Intake = {
  job: {
    id: 1,
    name: "Harbour Year",
    use: "paying client",
    client: "",
    deadline: null,
    role: "supervisor",
    sizes: [],
    people: [],
    pictures: [{ id: 7, number: 1, name: "Warehouse row" }],
    waiting: 4,
  },
  arrivals: [
    arrival(1, "quay.png"),
    arrival(2, "quay-1.png"),
    arrival(3, "quay-mask.png"),
    arrival(4, "stray-result.png"),
  ],
  groups: [
    { name: "Quay", picture: null, original: 1, mask: 3, results: [2], outlines: [] },
    { name: "Stray", picture: null, original: null, mask: null, results: [4], outlines: [] },
  ],
  methods: [],
  terms: [],
};

test("the suggested pairing stands until a person says otherwise", () => {
  const [quay, stray] = gathered(intake, {}, {});
  expect([quay?.original?.id, quay?.mask?.id, quay?.results.map((one) => one.id)]).toEqual([
    1,
    3,
    [2],
  ]);
  expect(quay && missing(quay)).toBeNull();
  expect(stray && missing(stray)).toBe("no original");
});

test("from a picture's Bench, files that the names make no picture of are its results", () => {
  const late = gathered(
    {
      ...intake,
      arrivals: [...intake.arrivals, arrival(5, "stray-result-mask.png")],
      groups: [
        ...intake.groups.slice(0, 1),
        { name: "Stray", picture: null, original: 4, mask: 5, results: [], outlines: [] },
      ],
    },
    {},
    {},
    7,
  );
  const [quay, row] = late;
  expect(quay?.picture).toBeNull();
  expect([row?.picture, row?.results.map((one) => one.id)]).toEqual([7, [4]]);
  expect(row?.outlines.map(({ arrival, of }) => [arrival.id, of])).toEqual([[5, 4]]);
  expect(row && missing(row)).toBeNull();
});

test("a file that was moved is nowhere else, and a file left aside stands in nothing's way", () => {
  const moved = gathered(intake, { 4: { group: "Quay", part: "result" } }, {});
  expect(moved).toHaveLength(1);
  expect(moved[0]?.results.map((one) => one.id).sort()).toEqual([2, 4]);
  const aside = gathered(intake, { 4: { group: "Quay", part: "aside" } }, {});
  expect(aside[0]?.results.map((one) => one.id)).toEqual([2]);
});

test("what a person calls the original takes the suggested one's place", () => {
  const [quay] = gathered(intake, { 2: { group: "Quay", part: "original" } }, {});
  expect(quay?.original?.id).toBe(2);
  expect(quay?.results.map((one) => one.id)).toEqual([1]);
});

test("a result can go to a picture that is there already, which takes results only", () => {
  const group = gathered(intake, { 4: { group: "picture 7", part: "original" } }, {}).find(
    (one) => one.picture === 7,
  );
  expect(group?.name).toBe("Warehouse row");
  expect(group?.results.map((one) => one.id)).toEqual([4]);
  expect(group && missing(group)).toBeNull();
});

test.each([
  [["quay", "fortnimm"], "Quay", "fortnimm"],
  [["Quay", "railing", "by", "hand"], "Quay railing", "by hand"],
  [["quay"], "Quay", ""],
])("a method is what a name says beyond its picture: %s", (words, group, method) => {
  expect(methodFrom(words, group)).toBe(method);
});

test("a mask of a result's own name is the outline it was made with, until somebody says otherwise", () => {
  const more = {
    ...intake,
    arrivals: [...intake.arrivals, arrival(5, "quay-fortnimm-mask.png")],
    groups: [
      {
        name: "Quay",
        picture: null,
        original: 1,
        mask: 3,
        results: [2],
        outlines: [{ result: 2, mask: 5 }],
      },
    ],
  };
  const [group] = gathered(more, {}, {});
  expect(group?.outlines.map((one) => [one.arrival.id, one.of])).toEqual([[5, 2]]);
  expect(group && missing(group)).toBeNull();
  const moved = gathered(more, { 5: { group: "Quay", part: "outline" } }, {})[0];
  expect(moved && missing(moved)).toBe("an outline of no result");
});

test("a further result of a picture that is there goes to it by itself", () => {
  const known = {
    ...intake,
    groups: [
      { name: "Warehouse row", picture: 7, original: null, mask: null, results: [4], outlines: [] },
    ],
  };
  const [found] = gathered(known, {}, {});
  expect([found?.key, found?.picture, found?.name]).toEqual(["picture 7", 7, "Warehouse row"]);
  expect(found && missing(found)).toBeNull();
});
