import { fireEvent, render, screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";
import { Outside } from "./Outside";
import { stepOf } from "./useBeyond";

const stain = {
  number: 0,
  kind: "overreach",
  words: "upper left: changed outside every region",
  confidence: 0.93,
  severities: { "3": { severity: 0.5, word: "clear", under_bar: false } },
  bbox: [1, 2, 30, 40],
  polygon: [[1, 2]],
  measure: {
    name: "change of tone outside every region",
    value: 5,
    unit: "levels of 255",
    natural: { low: 0, high: 0.4, n: 900, null: "surround" },
  },
  evidence: { type: "outside", what: "tone", difference: { red: 5, green: 5, blue: 4 } },
  answer: "unread" as const,
  answered_by: null,
};
const rest = { size: 3, holdsUp: true, mayRule: true, onPutBack: null };

test("what changed outside is listed with how visible it is, and opens to its evidence", () => {
  const onChoose = vi.fn();
  const { rerender } = render(
    <Outside {...rest} outside={[stain]} chosen={null} onChoose={onChoose} onAnswer={vi.fn()} />,
  );
  expect(screen.getByRole("region", { name: "Outside every region" }).textContent).toContain(
    "overreach, clear; 93 % sure",
  );
  fireEvent.click(screen.getByRole("button"));
  expect(onChoose).toHaveBeenCalledWith(0);
  const onAnswer = vi.fn();
  rerender(
    <Outside {...rest} outside={[stain]} chosen={0} onChoose={onChoose} onAnswer={onAnswer} />,
  );
  expect(screen.getByText(/red 5, green 5, blue 4 levels/)).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: /the agreed base/ }));
  expect(onAnswer).toHaveBeenCalledWith(0, "agreed base");
  fireEvent.click(screen.getByRole("button", { name: /overreach/ }));
  expect(onChoose).toHaveBeenLastCalledWith(null);
});

test("a walk goes through the findings and then through what changed outside", () => {
  expect([0, 1, 2].map((at) => stepOf(2, 1, at, 1))).toEqual([1, 2, 0]);
  expect(stepOf(2, 1, 0, -1)).toBe(2);
  expect(stepOf(0, 0, -1, 1)).toBe(-1);
});
