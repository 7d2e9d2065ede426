import { Link, useSearchParams } from "react-router";
import type { Bench } from "../api/client";
import { Key } from "../ui/Key";
import type { Dialogs } from "./state";
import { DESK } from "../ui/places";

type Props = {
  bench: Bench;
  /** The attempt that can be sent back now. */
  sendable: number | null;
  sending: boolean;
  spreadAt: string;
  outlinesAt: string;
  onDialog: (dialog: Dialogs) => void;
  onSendBack: () => void;
};

/** Where one is, what is judged for, and what is done once a picture. */
export function BenchHeader(props: Props) {
  const { bench, sendable, sending, spreadAt, outlinesAt, onDialog, onSendBack } = props;
  const [, setSearch] = useSearchParams();
  return (
    <header
      className="col-span-2 flex min-h-[44px] flex-wrap items-center gap-x-4 gap-y-1 border-b px-3"
      style={{ borderColor: "var(--line)" }}
    >
      <Link to={DESK} className="quiet text-inherit no-underline">
        desk <Key action="desk" />
      </Link>
      <h1 className="truncate text-[1.0625rem] font-normal">
        {bench.job}{" "}
        <strong>
          {String(bench.number).padStart(2, "0")} {bench.name}
        </strong>
      </h1>
      <label className="ml-auto flex items-center gap-2">
        judged for
        <select
          className="field"
          value={bench.size ?? ""}
          onChange={(event) => {
            const to = new URLSearchParams(window.location.search);
            to.set("size", event.target.value);
            setSearch(to, { replace: true });
          }}
        >
          {bench.sizes.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
      </label>
      {sendable !== null && (
        <button type="button" className="quiet" disabled={sending} onClick={onSendBack}>
          send attempt {sendable} back <Key action="sendBack" />
        </button>
      )}
      {bench.regions.length > 1 && bench.attempts.length > 1 && (
        <button type="button" className="quiet" onClick={() => onDialog("assemble")}>
          assemble <Key action="assemble" />
        </button>
      )}
      <button type="button" className="quiet" onClick={() => onDialog("bar")}>
        bar{Object.keys(bench.bar).length ? `: ${Object.keys(bench.bar).length}` : ""}{" "}
        <Key action="bar" />
      </button>
      <Link to={outlinesAt} className="quiet text-inherit no-underline">
        outlines <Key action="outlines" />
      </Link>
      <Link to={spreadAt} className="quiet text-inherit no-underline">
        spread <Key action="spread" />
      </Link>
      <button type="button" className="quiet" onClick={() => onDialog("history")}>
        history <Key action="history" />
      </button>
      <Standing bench={bench} />
    </header>
  );
}

/** The one accent: what awaits a decision. */
function Standing({ bench }: { bench: Bench }) {
  const done = bench.attempts.find((one) => one.id === bench.done);
  const signed = bench.attempts.find((one) => one.id === bench.signed?.attempt);
  const words = signed
    ? `signed off: attempt ${signed.number}, ${bench.signed?.person}`
    : done
      ? `done: attempt ${done.number} holds everywhere`
      : bench.undecided.length
        ? `${bench.undecided.length} undecided`
        : bench.state;
  return (
    <span
      role="status"
      className="flex items-center gap-1 whitespace-nowrap px-1"
      style={
        bench.undecided.length || bench.state === "changed outside"
          ? { background: "var(--await)", color: "#000", border: "1px solid #000" }
          : undefined
      }
    >
      {words}
      {(done ?? signed) && (
        <Link to={`/pictures/${bench.id}/sign-off`} className="quiet text-inherit no-underline">
          {signed ? "sign-off" : "sign it off"} <Key action="signOff" />
        </Link>
      )}
    </span>
  );
}
