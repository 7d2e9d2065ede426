import type { Bench, Cell } from "../api/client";
import { useSay } from "../api/queries";
import type { State, Step } from "./state";
import type { Findings } from "./useFindings";
import { WordsDialog } from "./WordsDialog";

type Props = {
  bench: Bench;
  askedSize: number | null;
  cell: Cell;
  /** The cell that was ruled on last, if it is of this picture. */
  last: number | null;
  found: Findings;
  state: State;
  change: (step: Step) => void;
};

/** Words on the last ruling, or the one that stands here; words on the finding that is open. */
export function Words({ bench, askedSize, cell, last, found, state, change }: Props) {
  const say = useSay(bench.id, askedSize);
  const spoken = bench.cells.find((one) => one.id === last && one.verdict) ?? cell;
  const numberOf = (rows: { id: number; number: number }[], id: number) =>
    rows.find((one) => one.id === id)?.number;
  const closed = () => change({ type: "dialog", dialog: null });
  const { finding } = found;
  return (
    <>
      <WordsDialog
        open={state.dialog === "words"}
        onClose={closed}
        about={`region ${numberOf(bench.regions, spoken.region)} in attempt ${numberOf(bench.attempts, spoken.attempt)}: ${spoken.verdict?.ruling ?? ""}`}
        words={spoken.verdict?.words ?? ""}
        busy={say.isPending}
        error={say.error}
        onSay={(words) =>
          say.mutate({ cell: spoken.id, revision: spoken.revision, words }, { onSuccess: closed })
        }
      />
      <WordsDialog
        open={state.dialog === "finding words"}
        onClose={closed}
        about={finding?.kind ?? "a finding"}
        words={finding?.words ?? ""}
        busy={found.answering}
        error={null}
        onSay={(words) => finding && found.comment(finding.id, words, closed)}
      />
    </>
  );
}
