import { render, screen } from "@testing-library/react";
import { expect, test } from "vitest";
import type { Finding } from "../api/client";
import { CurveChart, EvidencePlots } from "./charts";

const finding = (evidence: object): Finding =>
  ({
    evidence,
    measure: {
      name: "detail missing",
      value: 2.4,
      unit: "natural logarithm of energy",
      natural: { low: 0.2, high: 0.8, n: 20, null: "outline" },
    },
  }) as unknown as Finding;

test("a smear shows detail by its size, inside against around, and the way its streaks run", () => {
  render(
    <EvidencePlots
      finding={finding({
        type: "detail",
        inside: [0.1, 0.4],
        around: [1, 1.2],
        wavelengths_px: [2, 4],
        streaks: { coherence: 0.8, angle: 31 },
      })}
    />,
  );
  expect(
    screen.getByRole("img", { name: "2 px: 0.1 inside, 1 around; 4 px: 0.4 inside, 1.2 around" }),
  ).toBeTruthy();
  expect(screen.getByText(/what is left runs at 31°/)).toBeTruthy();
  expect(screen.getByText(/here it reads 0.2 to 0.8; this one reads/)).toBeTruthy();
});

test("a spectrum says what is inside against what lies around at every size, a step how large it is against its parallels", () => {
  const drawn = render(
    <CurveChart
      curve={{
        what: "spectrum",
        unit: "L*",
        at: [2.4, 4.8],
        value: [0.2, 1.5],
        low: [0.4, 1.2],
        high: [0.9, 2],
        found: [false, false],
      }}
    />,
  );
  expect(
    screen.getByRole("img", {
      name: "2.4 px: 0.2 inside, 0.4 to 0.9 around; 4.8 px: 1.5 inside, 1.2 to 2 around",
    }),
  ).toBeTruthy();
  // Only sizes that were measured are marked: a mark before the first would lie outside the frame.
  expect([...drawn.container.querySelectorAll("text")].map((mark) => mark.textContent)).toEqual([
    "4 px",
  ]);
  const { container } = render(
    <CurveChart
      curve={{
        what: "step",
        unit: "CIEDE2000",
        at: [0, 0.3, 0.6],
        value: [1, 6, 5],
        low: [0.5, 0.5, 0.5],
        high: [2, 2, 2],
        found: [false, true, true],
      }}
    />,
  );
  expect(
    screen.getByRole("img", {
      name: "step across the rim, CIEDE2000: up to 6; parallels outside 0.5 to 2",
    }),
  ).toBeTruthy();
  // One bar for each place that the finding covers, and nothing drawn outside the frame.
  expect(container.querySelectorAll("path[stroke-width='4']")).toHaveLength(2);
  for (const [, y] of (container.querySelector("polyline")?.getAttribute("points") ?? "")
    .split(" ")
    .map((point) => point.split(",").map(Number)))
    expect(y).toBeGreaterThanOrEqual(5.9);
});

test("a broken line says how many there are, at what angle, and from where they were followed", () => {
  render(
    <EvidencePlots
      finding={finding({
        type: "line",
        what: "offset",
        count: 2,
        from_both_sides: true,
        lines: [
          { amount: 3, angle: 2 },
          { amount: 2, angle: 4 },
        ],
      })}
    />,
  );
  expect(screen.getByText("2 lines, at 2°, 4°; followed from both sides")).toBeTruthy();
  render(
    <EvidencePlots
      finding={finding({
        type: "line",
        what: "missing",
        count: 1,
        faint: true,
        from_both_sides: true,
        lines: [{ amount: 0.9, angle: 11 }],
      })}
    />,
  );
  expect(
    screen.getByText("one line, at 11°; seen on both sides over its length only"),
  ).toBeTruthy();
});

test("a fill that undulates as a whole says by how much, not that it lies aside", () => {
  const { container } = render(
    <EvidencePlots
      finding={finding({
        type: "line",
        what: "wave",
        whole: true,
        count: 3,
        from_both_sides: false,
        amount: 3.84,
        lines: [
          { amount: 3.84, angle: 2 },
          { amount: 2, angle: 90 },
        ],
      })}
    />,
  );
  expect(
    screen.getByText(
      "edges in the fill bend to and fro, by up to 3.8 px; those around it do not; 3 that show it best",
    ),
  ).toBeTruthy();
  // Nothing is known of how they run outside.
  expect(
    [...container.querySelectorAll("path")].some((path) =>
      /H84/.test(path.getAttribute("d") ?? ""),
    ),
  ).toBe(false);
});

test("an untouched region says how little of it differs", () => {
  render(<EvidencePlots finding={finding({ type: "unchanged", share: 0.004, outside: 0 })} />);
  expect(screen.getByText("0.4 % of its pixels differ from the original.")).toBeTruthy();
});

test("a tone says which way it departs, a ghost where it is most alike, an invented thing in what it is foreign", () => {
  render(
    <EvidencePlots
      finding={finding({
        type: "tone",
        difference: { lightness: -2, a: 4.5, b: -6 },
        delta_e: 7.8,
      })}
    />,
  );
  expect(screen.getByRole("img", { name: "darker by 2; redder by 4.5; bluer by 6" })).toBeTruthy();
  render(
    <EvidencePlots
      finding={finding({ type: "ghost", correlation: 0.2, elsewhere: [-0.01, 0.02, 0.03] })}
    />,
  );
  expect(
    screen.getByRole("img", { name: "likeness 0.2 at the thing's place; up to 0.03 at 3 others" }),
  ).toBeTruthy();
  render(
    <EvidencePlots
      finding={finding({
        type: "foreign",
        odd: [
          { what: "blue to yellow", spreads: -5.2 },
          { what: "fine detail", spreads: 3.1 },
        ],
      })}
    />,
  );
  expect(
    screen.getByText(
      "unlike all around in blue to yellow (−5.2 spreads), fine detail (+3.1 spreads)",
    ),
  ).toBeTruthy();
  render(
    <EvidencePlots
      finding={finding({
        type: "island",
        stands_off: {
          difference: { lightness: -61, a: 0, b: -6 },
          delta_e: 61.3,
          surroundings_px: 48,
        },
      })}
    />,
  );
  expect(
    screen.getByText("it stands off from all that lies 48 px about it as nothing else here does"),
  ).toBeTruthy();
  expect(screen.getByRole("img", { name: /^darker by 61; .*bluer by 6$/ })).toBeTruthy();
});

test("a fill that departs from what it adjoins says in what, and shows the detail of both", () => {
  render(
    <EvidencePlots
      finding={finding({
        type: "departs",
        odd: [
          { what: "fine detail", spreads: 6.2 },
          { what: "direction", spreads: -4.3 },
        ],
        inside: [1.2, 2.5],
        around: [0.3, 0.4],
        wavelengths_px: [4, 8],
      })}
    />,
  );
  expect(
    screen.getByText(
      "does not continue what it adjoins in fine detail (+6.2 spreads), direction (−4.3 spreads)",
    ),
  ).toBeTruthy();
  expect(
    screen.getByRole("img", { name: "4 px: 1.2 inside, 0.3 around; 8 px: 2.5 inside, 0.4 around" }),
  ).toBeTruthy();
});

test("bits that were kept, a shadow's hint and a change outside are said in words, grain in times", () => {
  render(<EvidencePlots finding={finding({ type: "kept", what: "sliver", pixels: 41 })} />);
  expect(
    screen.getByText("sliver: 41 pixels here are still the original's, and look like the thing"),
  ).toBeTruthy();
  render(<EvidencePlots finding={finding({ type: "shadow", darker: 0.44 })} />);
  expect(screen.getByText(/a hint: 44 % less light than beyond it/)).toBeTruthy();
  render(
    <EvidencePlots
      finding={finding({ type: "outside", difference: { red: 4, green: 4, blue: 3.5 } })}
    />,
  );
  expect(screen.getByText("red 4, green 4, blue 3.5 levels against the original")).toBeTruthy();
  render(
    <EvidencePlots
      finding={finding({
        type: "detail",
        what: "less grain",
        inside: [0.2],
        around: [1],
        wavelengths_px: [2],
        ratio: 0.31,
      })}
    />,
  );
  expect(screen.getByText(/0.31 times the grain around$/)).toBeTruthy();
  render(
    <EvidencePlots
      finding={finding({
        type: "detail",
        what: "more grain",
        inside: [2],
        around: [1],
        wavelengths_px: [2],
        ratio: 1.9,
        seen_in: "colour",
      })}
    />,
  );
  expect(screen.getByText(/1.9 times the grain around, seen in colour$/)).toBeTruthy();
  render(
    <EvidencePlots
      finding={finding({
        type: "detail",
        what: "more grain",
        inside: [2],
        around: [1],
        wavelengths_px: [2],
        ratio: 2.4,
        seen_in: "brightness alone",
      })}
    />,
  );
  expect(screen.getByText(/2.4 times the grain around, seen in brightness alone$/)).toBeTruthy();
});

test("a rim's profile stands over the band of what is natural there, and says where it leaves it", () => {
  const profile = {
    offset_px: [-1, 0, 1],
    lightness: [50, 50, 62],
    low: [48, 48, 48],
    high: [56, 56, 56],
  };
  const { container } = render(
    <EvidencePlots finding={finding({ type: "rim", what: "step", profile })} />,
  );
  expect(
    screen.getByRole("img", {
      name: "lightness across the boundary, 50 to 62; beyond what is natural at 1 of 3 distances",
    }),
  ).toBeTruthy();
  const heights = (which: string) =>
    (container.querySelector(`[data-profile] ${which}`)?.getAttribute("points") ?? "")
      .split(" ")
      .map((point) => Number(point.split(",")[1]));
  // Inside the band where it is natural, above it where the step is.
  const [line, band] = [heights("polyline"), heights("polygon")];
  expect(line[0]).toBeGreaterThan(band[0] ?? 0);
  expect(line[2]).toBeLessThan(band[2] ?? 0);
});

test("a fill that lies farther aside than was sought says at least", () => {
  const lines = [{ amount: 9, angle: 2 }];
  const { rerender } = render(
    <EvidencePlots
      finding={finding({
        type: "line",
        what: "offset",
        whole: true,
        count: 1,
        from_both_sides: true,
        amount: 8.9,
        at_least: true,
        lines,
      })}
    />,
  );
  expect(screen.getByText(/lies at least 9 px aside/)).toBeTruthy();
  rerender(
    <EvidencePlots
      finding={finding({
        type: "line",
        what: "kink",
        whole: true,
        count: 1,
        from_both_sides: true,
        degrees: 4.2,
        at_least: false,
        lines,
      })}
    />,
  );
  expect(screen.getByText(/the fill as a whole lies turned by 4°/)).toBeTruthy();
  rerender(
    <EvidencePlots
      finding={finding({
        type: "line",
        what: "scale",
        whole: true,
        count: 1,
        from_both_sides: true,
        amount: -6.2,
        at_least: true,
        lines,
      })}
    />,
  );
  expect(screen.getByText(/the fill as a whole is at least 6 % too small/)).toBeTruthy();
  rerender(
    <EvidencePlots
      finding={finding({
        type: "line",
        what: "shear",
        whole: true,
        count: 1,
        from_both_sides: true,
        degrees: 5.1,
        at_least: false,
        lines,
      })}
    />,
  );
  expect(screen.getByText(/the fill as a whole lies aslant by 5°/)).toBeTruthy();
});
