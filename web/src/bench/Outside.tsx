import { useEffect, useRef } from "react";
import type { OutsideAnswer } from "../api/client";
import { Key } from "../ui/Key";
import { KindPicture, SeverityStrokes } from "../ui/marks";
import { EvidencePlots } from "./charts";
import type { Change } from "./useBeyond";

const ANSWERS = [
  ["confirmed", "confirmed"],
  ["not there", "notThere"],
  ["acceptable", "acceptable"],
  ["agreed base", null],
] as const;
const words: Record<OutsideAnswer, string> = {
  confirmed: "confirmed",
  "not there": "not there",
  acceptable: "acceptable",
  "agreed base": "the agreed base",
  unread: "unread",
};

/** What an attempt changed outside every region: it belongs to no cell, so it stands below them. */
export function Outside({
  outside,
  size,
  holdsUp,
  mayRule,
  chosen,
  onChoose,
  onAnswer,
  onPutBack,
}: {
  outside: Change[];
  size: number | null;
  /** Whether any of it keeps the attempt from being done. */
  holdsUp: boolean;
  mayRule: boolean;
  chosen: number | null;
  onChoose: (number: number | null) => void;
  onAnswer: (number: number, said: OutsideAnswer) => void;
  /** Null for those who may not. */
  onPutBack: (() => void) | null;
}) {
  const open = useRef<HTMLLIElement>(null);
  useEffect(() => {
    // In braces: newer browsers answer with a promise, and what an effect returns is taken for its end.
    open.current?.scrollIntoView?.({ block: "nearest" });
  }, [chosen]);
  return (
    <section aria-label="Outside every region" className="rule-top mt-2 pt-1">
      <h3 className="text-[0.875rem]">outside every region</h3>
      {holdsUp && (
        <p className="m-0 small">
          It holds this attempt up until it is let stand, or put back and brought in anew.
        </p>
      )}
      {onPutBack && (
        <p className="m-0 py-1">
          <button type="button" className="plain" onClick={onPutBack}>
            put the original back there <Key action="putBack" />
          </button>
        </p>
      )}
      <ul className="m-0 list-none p-0">
        {outside.map((one) => {
          const word = size === null ? null : (one.severities[String(size)]?.word ?? null);
          return (
            <li
              key={one.number}
              ref={one.number === chosen ? open : undefined}
              data-outside={one.number}
            >
              <button
                type="button"
                className="plain w-full text-left"
                aria-expanded={one.number === chosen}
                onClick={() => onChoose(one.number === chosen ? null : one.number)}
              >
                <span className="flex items-center gap-2">
                  <KindPicture kind={one.kind} /> <SeverityStrokes word={word} /> {one.kind}
                  {word ? `, ${word}` : ""}; {Math.round(one.confidence * 100)} % sure
                </span>
                <span className="block small">
                  {one.words}; {words[one.answer]}
                  {one.answered_by ? `, said ${one.answered_by}` : ""}
                </span>
              </button>
              {one.number === chosen && (
                <div className="py-1">
                  <EvidencePlots finding={one} />
                  {mayRule && <Answers change={one} onAnswer={onAnswer} />}
                </div>
              )}
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function Answers({
  change,
  onAnswer,
}: {
  change: Change;
  onAnswer: (number: number, said: OutsideAnswer) => void;
}) {
  return (
    <div
      className="mt-1 flex flex-wrap gap-1"
      role="group"
      aria-label="your answer to the change outside"
    >
      {ANSWERS.map(([answer, action]) => (
        <button
          key={answer}
          type="button"
          className="plain px-2"
          aria-pressed={change.answer === answer}
          title={
            answer === "agreed base"
              ? "it is wanted: the other attempts are judged against it"
              : undefined
          }
          style={
            change.answer === answer ? { borderColor: "var(--ink)", borderWidth: 2 } : undefined
          }
          onClick={() => onAnswer(change.number, change.answer === answer ? "unread" : answer)}
        >
          {words[answer]} {action && <Key action={action} />}
        </button>
      ))}
    </div>
  );
}
