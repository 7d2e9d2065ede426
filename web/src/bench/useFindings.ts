import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { Answer, Attempt, Bench, Cell, CellDetail, Finding } from "../api/client";
import { cellQuery, useAnswer, useOwnFlaws } from "../api/queries";
import type { Seeing, State, Step } from "./state";

/** A check's identity for a cell's findings: another check, or another state of it, is another key. */
export const checkKey = (attempt: Attempt | undefined) =>
  `${attempt?.check_of?.id ?? "none"}:${attempt?.check_of?.state ?? ""}`;

/** Findings in the order that the server gives for a size. */
export function inOrder(detail: CellDetail, size: number | null): Finding[] {
  const order = detail.order[String(size)] ?? [];
  const known = new Map(detail.findings.map((finding) => [finding.id, finding]));
  return order.flatMap((id) => known.get(id) ?? []);
}

/** Whether findings are shown: both sides were seen here, or it is ruled on. */
export function uncoveredBy(bench: Bench, cell: Cell, seen: Seeing | undefined): boolean {
  return Boolean(cell.verdict) || bench.opens_marks.every((one) => seen?.[one]);
}

const none: never[] = [];

/** A cell's findings, the one that is open, and answering them. */
export function useFindings(
  bench: Bench,
  cell: Cell,
  attempt: Attempt,
  state: State,
  change: (step: Step) => void,
  onTrouble: (words: string) => void,
) {
  const query = cellQuery(cell.id, checkKey(attempt));
  const detail = useQuery(query);
  const answer = useAnswer(query.queryKey, bench.id);
  const own = useOwnFlaws(query.queryKey, bench.id);
  const uncovered = uncoveredBy(bench, cell, state.seen[cell.id]);
  const ordered = useMemo(
    () => (detail.data && uncovered ? inOrder(detail.data, bench.size ?? null) : none),
    [detail.data, uncovered, bench.size],
  );
  const open = state.finding[cell.id];
  const chosen = open === undefined ? (ordered[0]?.id ?? null) : open;
  const finding = ordered.find((one) => one.id === chosen) ?? null;
  const choose = (id: number | null) =>
    change({ type: "open finding", cell: cell.id, finding: id });
  const say = (id: number, said: Answer) =>
    answer.mutate({ finding: id, answer: said }, { onError: (error) => onTrouble(error.message) });
  const comment = (id: number, words: string, done: () => void) =>
    answer.mutate(
      { finding: id, words },
      { onSuccess: done, onError: (error) => onTrouble(error.message) },
    );
  return {
    detail,
    own,
    uncovered,
    ordered,
    chosen,
    finding,
    choose,
    say,
    comment,
    answering: answer.isPending,
  };
}
export type Findings = ReturnType<typeof useFindings>;
