import { Link } from "react-router";
import type { ListedShotSlip } from "../api/shots";
import { rangesWords } from "../shots/ranges";
import { OutcomeShape } from "../ui/outcome";
import { late, OUT, stateWords } from "../ui/slipWords";
import { day, moment, until } from "../ui/words";

/** A slip of a shot, as a row of the list. */
export function ShotRow({ slip }: { slip: ListedShotSlip }) {
  const out = OUT.includes(slip.state);
  const named = (part: ListedShotSlip["parts"][number]) => part.name || `region ${part.number}`;
  return (
    <li className="rule-top">
      <Link
        to={`/shots/${slip.shot}?slip=${slip.id}`}
        className="grid grid-cols-[92px_1fr_250px_300px] items-center gap-4 py-2 text-inherit no-underline hover:bg-[var(--lift)]"
      >
        <span
          className="grid h-[62px] w-[92px] place-items-center border text-center small"
          style={{ borderColor: "var(--line)" }}
        >
          shot
        </span>
        <span>
          <span className="block text-lg">
            {String(slip.shot_number).padStart(2, "0")} {slip.shot_name}, slip {slip.round}
          </span>
          <span className="block">
            {slip.job}, {until(slip.deadline)};{" "}
            {slip.parts
              .map((part) => `${named(part)}, ${rangesWords(part.ranges, slip.frames, slip.first)}`)
              .join("; ")}
            {slip.attempt === null ? " of the original" : ` of attempt ${slip.attempt}`}
          </span>
        </span>
        <span>
          {stateWords[slip.state]}
          {slip.state === "sent" || slip.state === "working"
            ? `: ${slip.mine ? "yours" : slip.recipient}`
            : ""}
          {slip.due && out && (
            <strong className="block">
              due {day(slip.due)}
              {late(slip.due) ? ", overdue" : ""}
            </strong>
          )}
          <span className="block small">{moment(slip.at)}</span>
          {slip.progress !== null && (
            <progress
              className="block h-2 w-full"
              max={1}
              value={slip.progress}
              aria-label={`slip ${slip.round} of ${slip.shot_name}`}
              style={{ accentColor: "#000" }}
            />
          )}
          {slip.reason && <strong className="block">{slip.reason}</strong>}
        </span>
        <span>
          {slip.parts.map(
            (part) =>
              part.word && (
                <span key={part.number} className="flex items-center gap-2">
                  <OutcomeShape word={part.word} /> {named(part)}: {part.word}
                </span>
              ),
          )}
          {slip.differing && <strong className="block">what was not sent was changed</strong>}
        </span>
      </Link>
    </li>
  );
}
