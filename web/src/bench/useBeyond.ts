import type { Attempt, Bench, OutsideAnswer } from "../api/client";
import { useAnswerOutside } from "../api/queries";
import type { State, Step } from "./state";
import type { Findings } from "./useFindings";

export type Change = NonNullable<Attempt["check_of"]>["outside"][number];
const none: never[] = [];

/** Where a walk through what was found goes: the findings first, then what changed outside every region; round and round. */
export function stepOf(findings: number, outside: number, at: number, by: number): number {
  const all = findings + outside;
  return all === 0 ? -1 : (at + by + all) % all;
}

/** What an attempt changed outside every region, the change that is open, and answering it. */
export function useBeyond(
  bench: Bench,
  askedSize: number | null,
  attempt: Attempt,
  found: Findings,
  state: State,
  change: (step: Step) => void,
  onTrouble: (words: string) => void,
) {
  const answer = useAnswerOutside(bench.id, askedSize);
  const list: Change[] = found.uncovered ? (attempt.check_of?.outside ?? none) : none;
  const open = list.find((one) => `${attempt.id}.${one.number}` === state.outside) ?? null;
  const choose = (number: number | null) =>
    change({ type: "outside", outside: number === null ? null : `${attempt.id}.${number}` });
  return {
    list,
    open,
    choose,
    answering: answer.isPending,
    say: (number: number, said: OutsideAnswer) =>
      answer.mutate(
        { attempt: attempt.id, number, answer: said },
        { onError: (error) => onTrouble(error.message) },
      ),
    walk: (by: number) => {
      const { ordered, chosen } = found;
      const at = open
        ? ordered.length + list.indexOf(open)
        : ordered.findIndex((one) => one.id === chosen);
      const to = stepOf(ordered.length, list.length, at, by);
      const finding = ordered[to];
      choose(finding ? null : (list[to - ordered.length]?.number ?? null));
      if (finding) found.choose(finding.id);
    },
  };
}
export type Beyond = ReturnType<typeof useBeyond>;
