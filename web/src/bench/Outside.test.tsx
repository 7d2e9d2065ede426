import { fireEvent, render, screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";
import { Outside } from "./Outside";

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
};

test("what changed outside is listed with how visible it is, and opens to its evidence", () => {
  const onChoose = vi.fn();
  const { rerender } = render(
    <Outside outside={[stain]} size={3} chosen={null} onChoose={onChoose} onPutBack={null} />,
  );
  expect(screen.getByRole("region", { name: "Outside every region" }).textContent).toContain(
    "overreach, clear; 93 % sure",
  );
  fireEvent.click(screen.getByRole("button"));
  expect(onChoose).toHaveBeenCalledWith(0);
  rerender(<Outside outside={[stain]} size={3} chosen={0} onChoose={onChoose} onPutBack={null} />);
  expect(screen.getByText(/red 5, green 5, blue 4 levels/)).toBeTruthy();
  fireEvent.click(screen.getByRole("button"));
  expect(onChoose).toHaveBeenLastCalledWith(null);
});
