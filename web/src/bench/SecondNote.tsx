import type { Second } from "../api/seconds";
import { moment } from "../ui/words";

/** A second look at this cell: who asks whom, and once it is given, what it says. */
export function SecondNote({
  second,
  mayWithdraw,
  onWithdraw,
}: {
  second: Second;
  mayWithdraw: boolean;
  onWithdraw: () => void;
}) {
  const said = second.words ? `: “${second.words}”` : "";
  if (!second.answered_at && second.mine)
    return (
      <p className="m-0">
        <strong>
          {second.by} asks you{said}
        </strong>{" "}
        Rule as you see it; what others ruled here is shown afterwards.
      </p>
    );
  if (!second.answered_at)
    return (
      <p className="m-0">
        {second.asked} is asked{said}{" "}
        {mayWithdraw && (
          <button type="button" className="plain px-1 py-0" onClick={onWithdraw}>
            ask no longer
          </button>
        )}
      </p>
    );
  return (
    <p className="m-0">
      {second.asked}, asked by {second.by}:{" "}
      <strong>
        {second.ruling
          ? `${second.ruling}${second.size ? ` (${second.size})` : ""}`
          : `“${second.answer}”`}
      </strong>{" "}
      <span className="small">{moment(second.answered_at)}</span>
    </p>
  );
}
