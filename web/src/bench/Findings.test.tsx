import { fireEvent, render, screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import type { CellDetail, Finding } from "../api/client";
import { Findings } from "./Findings";
import { inOrder } from "./useFindings";
import { until, seconds } from "../ui/words";

Element.prototype.scrollIntoView = () => undefined;
// The picture of a finding is asked of the server; here only its words and plots are looked at.
vi.mock("./EvidencePicture", () => ({ EvidencePicture: () => null }));

const finding = (id: number, group: string, severity: number, kind = "seam") =>
  ({
    id,
    group,
    kind,
    runner_up: null,
    confidence: 0.8,
    score: 0.9,
    answer: "unread",
    bbox: [0, 0, 1, 1],
    polygon: [],
    severities: {
      5: { severity, word: severity > 0.6 ? "glaring" : "faint" },
      6: { severity: 0, word: "not visible at this size" },
    },
    measure: {
      name: "colour step across the boundary",
      value: 3.9,
      unit: "natural spreads",
      natural: { low: 0.8, high: 1.4, n: 16, null: "outline" },
    },
    evidence: { type: "copy", offset_px: [-30, 12], mirrored: true },
  }) as unknown as Finding;

const detail = {
  cell: 1,
  checked: true,
  covered: {},
  covers: {},
  order: { 5: [2, 3, 4, 1, 5], 6: [1, 2, 3, 4, 5] },
  backdrop: "organic",
  overall: 0.4,
  scores: { seam: 0.9, halo: 0, repeat: 0 },
  abstained: { repeat: "the region is too narrow" },
  groups: ["g1", "g2", "g3", "g4"].map((id) => ({
    id,
    cause: "c",
    words: `place ${id}: cause`,
    bbox: [0, 0, 1, 1],
  })),
  findings: [
    finding(1, "g1", 0.2),
    finding(2, "g2", 0.9),
    finding(3, "g2", 0.3, "halo"),
    finding(4, "g3", 0.5),
    finding(5, "g4", 0.1),
  ],
} as unknown as CellDetail;
const nothing = () => undefined;

describe("findings", () => {
  it("come in the order that the server gives for the size", () => {
    expect(inOrder(detail, 5).map((one) => one.id)).toEqual([2, 3, 4, 1, 5]);
    expect(inOrder(detail, 6).map((one) => one.id)).toEqual([1, 2, 3, 4, 5]);
    expect(inOrder(detail, 7)).toEqual([]);
  });

  it("open at most three groups, say what cannot be told, and show the value beside this picture's natural range", () => {
    render(
      <Findings
        detail={detail}
        ordered={inOrder(detail, 5)}
        size={5}
        selected={2}
        onSelect={nothing}
        onAnswer={nothing}
        onWords={() => undefined}
        mayRule
      />,
    );
    expect(screen.queryByText("place g4: cause")).toBeNull();
    expect(screen.getByText("repeat: the region is too narrow")).toBeTruthy();
    expect(
      screen.getByRole("img", {
        name: "colour step across the boundary: 3.9; natural here 0.8 to 1.4",
      }),
    ).toBeTruthy();
    expect(screen.getByText(/mirrored; source 30 px to the left, 12 px down/)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "1 more group" }));
    expect(screen.getByText("place g4: cause")).toBeTruthy();
  });

  it("are reworded by the size judged for", () => {
    const { container } = render(
      <Findings
        detail={detail}
        ordered={inOrder(detail, 5)}
        size={6}
        selected={null}
        onSelect={nothing}
        onAnswer={nothing}
        onWords={() => undefined}
        mayRule
      />,
    );
    expect(container.textContent).toContain("seam, not visible at this size");
  });

  it("are answered only by those who rule", () => {
    const answer = vi.fn();
    const { rerender } = render(
      <Findings
        detail={detail}
        ordered={inOrder(detail, 5)}
        size={5}
        selected={2}
        onSelect={nothing}
        onAnswer={answer}
        onWords={() => undefined}
        mayRule
      />,
    );
    fireEvent.click(screen.getByRole("button", { name: /^not there/ }));
    expect(answer).toHaveBeenCalledWith(2, "not there");
    rerender(
      <Findings
        detail={detail}
        ordered={inOrder(detail, 5)}
        size={5}
        selected={2}
        onSelect={nothing}
        onAnswer={answer}
        onWords={() => undefined}
        mayRule={false}
      />,
    );
    expect(screen.queryByRole("button", { name: /^not there/ })).toBeNull();
  });

  it("say so when there is nothing to report", () => {
    const { container } = render(
      <Findings
        detail={{ ...detail, findings: [], groups: [] }}
        ordered={inOrder({ ...detail, findings: [], groups: [] }, 5)}
        size={5}
        selected={null}
        onSelect={nothing}
        onAnswer={nothing}
        onWords={() => undefined}
        mayRule
      />,
    );
    expect(container.textContent).toContain("Nothing to report in what was examined: seam, halo.");
  });
});

describe("words", () => {
  it("say how long there is until a deadline", () => {
    const now = Date.parse("2026-11-25T10:00:00Z");
    expect(until("2026-11-25T10:40:00Z", now)).toBe("due in 40 minutes");
    expect(until("2026-11-26T08:00:00Z", now)).toBe("due in 22 hours");
    expect(until("2026-11-22T10:00:00Z", now)).toBe("due 3 days ago");
    expect(until(null)).toBe("no deadline");
  });

  it("say seconds and minutes", () => {
    expect([seconds(null), seconds(6.24), seconds(2700)]).toEqual(["", "6.2 s", "45 min"]);
  });
});
