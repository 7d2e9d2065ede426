import { useShotSlips, type Shot, type ShotSlip } from "../api/shots";
import { Trouble } from "../ui/Trouble";
import { OUT, stateWords } from "../ui/slipWords";
import { counted, day } from "../ui/words";
import { called } from "./clock";
import { rangesWords } from "./ranges";
import { ShotAnswer } from "./ShotAnswer";
import { ShotTalk } from "./ShotTalk";

/** Somebody or something has it. */
const isOut = (slip: ShotSlip) => OUT.includes(slip.state);

/** One slip: what was asked, how it stands, what became of it, what can be done. */
export function ShotSlipItem({
  shot,
  slip,
  onFrame,
  onAttempt,
  onShow,
}: {
  shot: Shot;
  slip: ShotSlip;
  onFrame: (frame: number) => void;
  onAttempt: (id: number) => void;
  onShow: (slip: ShotSlip, part: number) => void;
}) {
  const { frames, first } = shot.original;
  const out = isOut(slip);
  return (
    <li className="rule-top py-1">
      <p className="m-0">
        Slip {slip.round}, {slip.mine ? "yours" : slip.recipient}:{" "}
        <strong>{stateWords[slip.state]}</strong>
        {slip.due && out ? `, due ${day(slip.due)}` : ""}
      </p>
      {slip.parts.map((part, number) => (
        <p key={part.region} className="m-0 small">
          <button
            type="button"
            className="quiet"
            title="look at these frames"
            onClick={() => onShow(slip, number)}
          >
            region {part.number}, {rangesWords(part.ranges, frames, first)}
          </button>
          {slip.attempt === null ? " of the original" : ` of attempt ${slip.attempt}`}
          {part.word && (
            <>
              : <strong>{part.word}</strong>
              {part.kinds.length > 0 &&
                ` (${part.kinds.map(([kind, word]) => `${kind}: ${word}`).join("; ")})`}
            </>
          )}
        </p>
      ))}
      {slip.repaired && (
        <p className="m-0 small">
          repaired in attempt {slip.repaired.number}: frame{" "}
          {slip.repaired.frames.map((one) => called(one, first)).join(", ")}
        </p>
      )}
      {slip.note && <p className="m-0 small">“{slip.note}”</p>}
      {slip.by_method && out && (
        <p role="status" className="m-0 small">
          <progress max={1} value={slip.progress} className="mr-2 h-[6px] w-[90px]" />
          {slip.words || "waits"}
        </p>
      )}
      {slip.reason && (
        <p role="alert" className="m-0 small">
          <strong>{slip.reason}</strong>
        </p>
      )}
      {slip.rest && <Rest shot={shot} rest={slip.rest} onFrame={onFrame} />}
      {!slip.by_method && <ShotTalk shot={shot} slip={slip} />}
      {out && !slip.by_method && (shot.rules || slip.mine) && (
        <>
          {slip.mine && <Had shot={shot} slip={slip} />}
          <ShotAnswer shot={shot} slip={slip} />
        </>
      )}
      <Acts shot={shot} slip={slip} onAttempt={onAttempt} />
    </li>
  );
}

/** What one has of the house to work from. */
function Had({ shot, slip }: { shot: Shot; slip: ShotSlip }) {
  const { pack } = useShotSlips(shot.id);
  const sent = shot.attempts.find((one) => one.number === slip.attempt)?.footage;
  const files = sent ? [sent, shot.original] : [shot.original];
  return (
    <p className="m-0 flex flex-wrap items-center gap-x-3 gap-y-1">
      {slip.package ? (
        <a href={slip.package}>package: masks, words</a>
      ) : slip.packing ? (
        <span role="status">the package is being built …</span>
      ) : (
        <button
          type="button"
          className="plain"
          aria-disabled={pack.isPending}
          onClick={() => pack.mutate(slip.id)}
        >
          build the package
        </button>
      )}
      {files.map((one) => (
        <a key={one.id} href={`/api/footage/${one.id}/file/`}>
          {one.name}
        </a>
      ))}
      <Trouble error={pack.error} />
    </p>
  );
}

/** What can be done with a slip as it stands. */
function Acts({
  shot,
  slip,
  onAttempt,
}: {
  shot: Shot;
  slip: ShotSlip;
  onAttempt: (id: number) => void;
}) {
  const { step } = useShotSlips(shot.id);
  const answer = shot.attempts.find((one) => one.number === slip.returned);
  const unexamined = slip.state === "returned" && answer?.check?.state === "failed";
  const withdrawable = isOut(slip) || slip.state === "failed" || slip.state === "declined";
  const event = (what: "taken up" | "withdrawn" | "sent" | "settled", words: string) => (
    <button
      type="button"
      className="quiet"
      aria-disabled={step.isPending}
      onClick={() => step.mutate({ slip: slip.id, event: what, words: "", worker: null })}
    >
      {words}
    </button>
  );
  return (
    <>
      {slip.state === "returned" && (
        <p role={unexamined ? "alert" : "status"} className="m-0 small">
          {unexamined
            ? "The answer could not be examined: examine it again from its attempt, or settle the slip."
            : "The answer is being examined and compared with what was sent."}
        </p>
      )}
      <span className="flex flex-wrap gap-2">
        {answer && (
          <button type="button" className="plain" onClick={() => onAttempt(answer.id)}>
            look at attempt {answer.number}
          </button>
        )}
        {slip.mine && slip.state === "sent" && event("taken up", "I am at it")}
        {shot.rules && withdrawable && event("withdrawn", "withdraw it")}
        {shot.rules && slip.state === "failed" && event("sent", "try it again")}
        {shot.rules && unexamined && event("settled", "settle it unexamined")}
      </span>
      <Trouble error={step.error} />
    </>
  );
}

/** What the answer did to what was not sent. */
function Rest({
  shot,
  rest,
  onFrame,
}: {
  shot: Shot;
  rest: NonNullable<ShotSlip["rest"]>;
  onFrame: (frame: number) => void;
}) {
  const { frames, first } = shot.original;
  const about = `beyond ${rest.margin} pixels about what was sent`;
  if (rest.differing.length === 0)
    return (
      <p className="m-0 small">
        {rest.recoded.length === 0
          ? `The rest is the same to the bit, ${about}: ${counted(rest.frames, "frame")} compared.`
          : `The rest is the same but for being saved anew, ${about}: ${counted(rest.frames, "frame")} compared.`}
      </p>
    );
  return (
    <p className="m-0 small" role="alert">
      <strong>What was not sent was changed</strong>, {about}:{" "}
      {rangesWords(rest.differing, frames, first)}.{" "}
      {rest.places[0] && (
        <button type="button" className="plain" onClick={() => onFrame(rest.places[0]?.frame ?? 0)}>
          most in frame {called(rest.places[0].frame, first)}
        </button>
      )}
    </p>
  );
}
