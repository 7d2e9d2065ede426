import { beforeEach, expect, test } from "vitest";
import {
  before,
  changed,
  EMPTY,
  MOST_STEPS,
  reduce,
  remember,
  remembered,
  shownStep,
  type Area,
  type Drawing,
} from "./state";

const area = (mask: string): Area => ({ ...EMPTY, mask, pixels: mask.length });
const begun = () =>
  reduce(null, { type: "begin", region: 4, version: 2, area: area("a"), words: "as it is" });
const did = (drawing: Drawing | null, mask: string) =>
  reduce(drawing, { type: "did", step: { area: area(mask), act: null, words: mask } });
const shown = (drawing: Drawing | null) => (drawing ? shownStep(drawing).area.mask : null);

beforeEach(() => sessionStorage.clear());

test("what is done can be undone and done again", () => {
  let drawing = did(did(begun(), "b"), "c");
  expect(shown(drawing)).toBe("c");
  drawing = reduce(reduce(drawing, { type: "undo" }), { type: "undo" });
  expect(shown(drawing)).toBe("a");
  expect(shown(reduce(drawing, { type: "undo" }))).toBe("a");
  drawing = reduce(reduce(drawing, { type: "redo" }), { type: "redo" });
  expect(shown(drawing)).toBe("c");
  expect(shown(reduce(drawing, { type: "redo" }))).toBe("c");
});

test("what was undone is forgotten once something else is done", () => {
  const drawing = did(reduce(did(did(begun(), "b"), "c"), { type: "undo" }), "d");
  expect(drawing?.steps.map((step) => step.area.mask)).toEqual(["a", "b", "d"]);
});

test("the last act done anew takes its own place and begins where it began", () => {
  const drawing = reduce(did(begun(), "b"), {
    type: "redid",
    step: { area: area("b2"), act: null, words: "" },
  });
  expect(drawing?.steps.map((step) => step.area.mask)).toEqual(["a", "b2"]);
  expect(drawing && before(drawing).mask).toBe("a");
});

test("only so many steps are kept, the newest", () => {
  let drawing = begun();
  for (let i = 0; i < MOST_STEPS + 20; i++) drawing = did(drawing, `step ${i}`);
  expect(drawing?.steps.length).toBe(MOST_STEPS);
  expect(shown(drawing)).toBe(`step ${MOST_STEPS + 19}`);
});

test("an outline is changed only where it differs from what it began as", () => {
  const drawing = begun();
  expect(drawing && changed(drawing)).toBe(false);
  expect(changed(did(drawing, "b") as Drawing)).toBe(true);
  expect(changed(reduce(did(drawing, "b"), { type: "undo" }) as Drawing)).toBe(false);
});

test("what was drawn is there again after the page was loaded anew, and forgotten once kept", () => {
  const drawing = reduce(did(did(begun(), "b"), "c"), { type: "undo" });
  remember(7, drawing);
  expect(remembered(7)).toEqual(drawing);
  expect(remembered(8)).toBeNull();
  remember(7, null);
  expect(remembered(7)).toBeNull();
  sessionStorage.setItem("zweiblick.outline.7", "{broken");
  expect(remembered(7)).toBeNull();
});

test("a long history is kept to its newest part, at the step that is shown", () => {
  let drawing = begun();
  for (let i = 0; i < 40; i++) drawing = did(drawing, `step ${i}`);
  remember(7, drawing);
  const kept = remembered(7);
  expect(kept?.steps.length).toBe(20);
  expect(shown(kept)).toBe("step 39");
});
