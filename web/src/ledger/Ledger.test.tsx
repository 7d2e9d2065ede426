import { fireEvent, render, screen } from "@testing-library/react";
import { MemoryRouter } from "react-router";
import { describe, expect, it, vi } from "vitest";
import type { Attempt, Bench, Cell } from "../api/client";
import { cellWords, Ledger } from "./Ledger";

const attempt = (id: number, state = "done", overall: number | null = 1) =>
  ({
    id,
    number: id,
    method: "copy",
    kind: "by hand",
    check_of: { state, overall },
    made_from: id === 2 ? [1] : [],
  }) as unknown as Attempt;
const cell = (region: number, of: number, more: Partial<Cell> = {}) =>
  ({
    id: region * 10 + of,
    region,
    attempt: of,
    state: "undecided",
    worst_word: null,
    worst_kind: null,
    ...more,
  }) as unknown as Cell;
const bench = {
  id: 7,
  attempts: [attempt(1), attempt(2)],
  regions: [
    { id: 1, number: 1, name: "ladder" },
    { id: 2, number: 2, name: "barrel" },
  ],
  cells: [
    cell(1, 1, { worst_word: "glaring", worst_kind: "seam" }),
    cell(1, 2, { state: "passes" }),
    cell(2, 1, { state: "not needed" }),
    cell(2, 2),
  ],
} as unknown as Bench;

const shown = (of: Bench) =>
  render(
    <MemoryRouter>
      <Ledger bench={of} current={of.cells[0] as Cell} onChoose={() => undefined} />
    </MemoryRouter>,
  );

describe("the ledger", () => {
  it("leads a supervisor, and nobody else, to bringing in another result", () => {
    shown({ ...bench, id: 7, job_id: 3, role: "retoucher" });
    expect(screen.queryByRole("link")).toBeNull();
    shown({ ...bench, id: 7, job_id: 3, role: "supervisor" });
    expect(screen.getByRole("link", { name: "bring in another result" }).getAttribute("href")).toBe(
      "/jobs/3?picture=7",
    );
  });

  it("says every cell's state and worst finding in words", () => {
    shown(bench);
    expect(
      screen.getByRole("button", {
        name: "region 1 ladder, attempt 1: undecided; worst: seam, glaring",
      }),
    ).toHaveProperty("tabIndex", 0);
    expect(screen.getByRole("button", { name: /attempt 2: passes; nothing found/ })).toHaveProperty(
      "tabIndex",
      -1,
    );
  });

  it("tells a check that runs from one that failed or found nothing to compare", () => {
    expect(cellWords(cell(1, 1), attempt(1, "running", null))).toBe("being checked");
    expect(cellWords(cell(1, 1), attempt(1, "failed", null))).toBe("could not be checked");
    expect(cellWords(cell(1, 1), attempt(1, "done", null))).toBe("could not be checked");
    expect(cellWords(cell(1, 1, { state: "rework" }), attempt(1, "failed", null))).toBe(
      "rework; nothing found",
    );
  });

  it("says what came back, what came over, and what an attempt was made from", () => {
    expect(cellWords(cell(1, 2, { outcome: "fixed" }), attempt(2))).toBe(
      "undecided; nothing found; came back: fixed",
    );
    expect(
      cellWords(
        cell(1, 2, { state: "passes", verdict: { carried: true } as Cell["verdict"] }),
        attempt(2),
      ),
    ).toBe("passes, carried over; nothing found");
    shown(bench);
    expect(screen.getByText("from 1")).toBeTruthy();
  });

  it("is walked with the arrow keys from anywhere but fields", () => {
    const choose = vi.fn();
    render(
      <MemoryRouter>
        <Ledger bench={bench} current={bench.cells[0] as Cell} onChoose={choose} />
        <input aria-label="field" />
      </MemoryRouter>,
    );
    fireEvent.keyDown(window, { key: "ArrowRight" });
    fireEvent.keyDown(window, { key: "ArrowDown" });
    fireEvent.keyDown(window, { key: "ArrowUp" });
    fireEvent.keyDown(screen.getByLabelText("field"), { key: "ArrowDown" });
    expect(choose.mock.calls.map(([to]) => (to as Cell).id)).toEqual([12, 21]);
  });
});
