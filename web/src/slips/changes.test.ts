import { expect, test } from "vitest";
import { settingsWords, withSetting } from "./changes";

test("a change's settings are put in words", () => {
  expect(settingsWords({ what: "feather", values: { pixels: 4 }, because: [], why: "" })).toBe(
    "4 px",
  );
  expect(
    settingsWords({
      what: "follow the line",
      values: { degrees: [1.5, 90] },
      because: [],
      why: "",
    }),
  ).toBe("at 1.5°, 90°");
  expect(
    settingsWords({
      what: "keep sources out",
      values: { boxes: [[1, 2, 3, 4]] },
      because: [],
      why: "",
    }),
  ).toBe("1 place");
  expect(
    settingsWords({
      what: "match grain",
      values: { ratio: 0.4, sigma: 2.3 },
      because: [],
      why: "",
    }),
  ).toBe("σ 2.3 of 255");
  expect(settingsWords({ what: "match tone", values: {}, because: [], why: "" })).toBe("");
});

test("a change added by hand brings the setting that it needs", () => {
  expect(withSetting("looser outline").values).toEqual({ pixels: 8 });
  expect(withSetting("match tone").values).toEqual({});
});
