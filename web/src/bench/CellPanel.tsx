import { Link } from "react-router";
import type { Attempt, Bench, Cell, Region } from "../api/client";
import { useAskCheck } from "../api/queries";
import { bestCell } from "../ledger/walk";
import { Key } from "../ui/Key";
import { counted } from "../ui/words";
import { AttemptFacts } from "./AttemptFacts";
import { CellNotes } from "./CellNotes";
import { CheckState } from "./CheckState";
import { Findings } from "./Findings";
import { Outside } from "./Outside";
import { OwnFlawForm, OwnFlaws } from "./OwnFlaws";
import { SecondNote } from "./SecondNote";
import type { Marking, Seeing, State, Step } from "./state";
import type { Beyond } from "./useBeyond";
import type { Findings as Found } from "./useFindings";
import type { Ruler } from "./useRuling";
import type { At } from "./useSpot";

type Props = {
  bench: Bench;
  cell: Cell;
  attempt: Attempt;
  region: Region;
  state: State;
  change: (step: Step) => void;
  found: Found;
  beyond: Beyond;
  ruler: Ruler;
  ready: boolean;
  turned: boolean;
  outlining: Marking | null;
  pinned: At | null;
  onPin: () => void;
  onLook: () => void;
  onPutBack: () => void;
  onWithdraw: (look: number) => void;
};

const both: Seeing = { original: true, attempt: true };

/** One cell in words: what it is, what was found, what a person found. */
export function CellPanel(props: Props) {
  const { bench, cell, attempt, region, change, found, beyond } = props;
  const mayRule = bench.role === "supervisor";
  const askCheck = useAskCheck(bench.id);
  const check = attempt.check_of;
  const judged = check?.state === "done" && check.overall !== null;
  return (
    <>
      <h2 className="text-[1.0625rem]">
        {region.name} in attempt {attempt.number}
      </h2>
      <AttemptFacts
        bench={bench}
        attempt={attempt}
        region={region}
        worked={cell.worked}
        best={bestCell(bench, region.id)?.id === cell.id}
      />
      <p className="m-0 -ml-1 mb-1 flex flex-wrap">
        {bench.attempts.length > 1 && (
          <button
            type="button"
            className="quiet"
            onClick={() => change({ type: "dialog", dialog: "changes" })}
          >
            what changed <Key action="changes" />
          </button>
        )}
        {mayRule && (
          <button
            type="button"
            className="quiet"
            onClick={() => change({ type: "dialog", dialog: "trial" })}
          >
            a trial <Key action="trial" />
          </button>
        )}
        {bench.siblings > 0 && (
          <Link
            to={`/pictures/${bench.id}/regions/${region.number}/siblings?attempt=${attempt.number}`}
            className="quiet text-inherit no-underline"
          >
            {counted(bench.siblings, "sibling")} <Key action="siblings" />
          </Link>
        )}
        {mayRule && (
          <button
            type="button"
            className="quiet"
            onClick={() => change({ type: "dialog", dialog: "facts" })}
          >
            correct it
          </button>
        )}
        {mayRule && (
          <button
            type="button"
            className="quiet"
            onClick={() => change({ type: "dialog", dialog: "ask" })}
          >
            ask <Key action="ask" />
          </button>
        )}
        {mayRule && (
          <button
            type="button"
            className="quiet"
            onClick={() => change({ type: "dialog", dialog: "leave" })}
          >
            it stays <Key action="leave" />
          </button>
        )}
      </p>
      {region.second?.cell === cell.id && (
        <SecondNote
          second={region.second}
          mayWithdraw={mayRule}
          onWithdraw={() => region.second && props.onWithdraw(region.second.id)}
        />
      )}
      <CellNotes bench={bench} cell={cell} attempt={attempt} />
      <CheckState attempt={attempt} mayRule={mayRule} onAsk={() => askCheck.mutate(attempt.id)} />
      {judged && !found.uncovered && (
        <LookFirst
          turned={props.turned}
          onShow={() => change({ type: "saw", cell: cell.id, what: both })}
        />
      )}
      {found.detail.isError && (
        <p role="alert" className="m-0">
          {found.detail.error.message}{" "}
          <button type="button" className="plain" onClick={() => void found.detail.refetch()}>
            try again
          </button>
        </p>
      )}
      {found.uncovered && <Uncovered {...props} mayRule={mayRule} />}
      <OwnPart {...props} mayRule={mayRule} />
      {beyond.list.length > 0 && (
        <Outside
          outside={beyond.list}
          holdsUp={bench.held_up.includes(attempt.id)}
          mayRule={mayRule}
          onAnswer={beyond.say}
          size={bench.size ?? null}
          onPutBack={mayRule ? props.onPutBack : null}
          chosen={beyond.open?.number ?? null}
          onChoose={(number) => {
            beyond.choose(number);
            props.onLook();
          }}
        />
      )}
    </>
  );
}

/** People first, machine second. */
function LookFirst({ turned, onShow }: { turned: boolean; onShow: () => void }) {
  return (
    <p className="m-0">
      Look first: findings are shown once you have seen both sides here. Hold <Key action="swap" />{" "}
      for the {turned ? "attempt" : "original"}.{" "}
      <button type="button" className="plain" onClick={onShow}>
        show findings
      </button>
    </p>
  );
}

function Uncovered({
  bench,
  cell,
  found,
  ruler,
  ready,
  mayRule,
  state,
  change,
}: Props & { mayRule: boolean }) {
  const detail = found.detail.data;
  if (!detail) return null;
  const size = String(bench.size);
  const offered = mayRule && cell.state === "undecided" && detail.covers[size];
  return (
    <>
      {detail.checked && offered && (
        <p className="m-0 flex items-center gap-2">
          What was found covers {Math.round((detail.covered[size] ?? 0) * 100)} % of the region:{" "}
          <button
            type="button"
            className="plain whitespace-nowrap"
            disabled={ruler.busy || !ready}
            onClick={() => ruler.rule("rework")}
          >
            does not hold <Key action="rework" />
          </button>
        </p>
      )}
      {detail.checked && (
        <Findings
          detail={detail}
          ordered={found.ordered}
          size={bench.size ?? null}
          selected={found.chosen}
          mayRule={mayRule}
          onSelect={(id) => found.choose(id === found.chosen ? null : id)}
          onAnswer={found.say}
          onWords={() => change({ type: "dialog", dialog: "finding words" })}
        />
      )}
      <OwnFlaws
        own={detail.own}
        chosen={state.own}
        mayRule={mayRule}
        onChoose={(own) => change({ type: "own", own })}
        onTakeBack={(id) =>
          found.own.unmark.mutate(id, { onError: (error) => ruler.setTrouble(error.message) })
        }
      />
    </>
  );
}

/** Outlining a flaw that the machine missed. */
function OwnPart({
  bench,
  cell,
  found,
  outlining,
  change,
  pinned,
  onPin,
  mayRule,
}: Props & { mayRule: boolean }) {
  const { mark } = found.own;
  if (outlining)
    return (
      <OwnFlawForm
        outline={outlining.outline}
        pinned={pinned}
        size={bench.sizes.find((one) => one.id === bench.size) ?? null}
        busy={mark.isPending}
        trouble={mark.error?.message ?? null}
        onOutline={(outline) => change({ type: "mark", marking: { cell: cell.id, outline } })}
        onPin={onPin}
        onCancel={() => change({ type: "mark", marking: null })}
        onSave={(asked) =>
          mark.mutate(
            { cell: cell.id, ...asked },
            {
              onSuccess: (stored) => {
                change({ type: "mark", marking: null });
                change({ type: "own", own: stored.own.at(-1)?.id ?? null });
                change({ type: "saw", cell: cell.id, what: both });
              },
            },
          )
        }
      />
    );
  if (!mayRule) return null;
  return (
    <p className="rule-top m-0 py-2">
      <button
        type="button"
        className="quiet -ml-1"
        onClick={() => change({ type: "mark", marking: { cell: cell.id, outline: null } })}
      >
        a flaw of your own <Key action="ownFlaw" />
      </button>
    </p>
  );
}
