import { render, screen } from "@testing-library/react";
import { expect, test } from "vitest";
import type { Finding } from "../api/client";
import { EvidencePlots } from "./charts";

const finding = (evidence: object): Finding => ({
  evidence, measure: { name: "detail missing", value: 2.4, unit: "natural logarithm of energy", natural: { low: 0.2, high: 0.8, n: 20, null: "outline" } },
}) as unknown as Finding;

test("a smear shows detail by its size, inside against around, and the way its streaks run", () => {
  render(<EvidencePlots finding={finding({ type: "detail", inside: [0.1, 0.4], around: [1, 1.2], wavelengths_px: [2, 4], streaks: { coherence: 0.8, angle: 31 } })} />);
  expect(screen.getByRole("img", { name: "2 px: 0.1 inside, 1 around; 4 px: 0.4 inside, 1.2 around" })).toBeTruthy();
  expect(screen.getByText(/what is left runs at 31°/)).toBeTruthy();
  expect(screen.getByText(/here it reads 0.2 to 0.8; this one reads/)).toBeTruthy();
});

test("a broken line says how many there are, at what angle, and from where they were followed", () => {
  render(<EvidencePlots finding={finding({ type: "line", what: "offset", count: 2, from_both_sides: true, lines: [{ amount: 3, angle: 2 }, { amount: 2, angle: 4 }] })} />);
  expect(screen.getByText("2 lines, at 2°, 4°; followed from both sides")).toBeTruthy();
});

test("an untouched region says how little of it differs", () => {
  render(<EvidencePlots finding={finding({ type: "unchanged", share: 0.004, outside: 0 })} />);
  expect(screen.getByText("0.4 % of its pixels differ from the original.")).toBeTruthy();
});
