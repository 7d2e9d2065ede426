import { useEffect, useRef, useState } from "react";
import type { Answer, CellDetail, Finding } from "../api/client";
import { Key } from "../ui/Key";
import { KindPicture, SeverityStrokes } from "../ui/marks";
import { counted } from "../ui/words";
import { EvidencePicture } from "./EvidencePicture";
import { EvidencePlots } from "./charts";

const answerWords: Record<Answer, string> = {
  confirmed: "confirmed",
  "not there": "not there",
  acceptable: "acceptable",
  unread: "unread",
};

type Props = {
  detail: CellDetail;
  /** In the order they are walked. */
  ordered: Finding[];
  size: number | null;
  selected: number | null;
  onSelect: (finding: number) => void;
  onAnswer: (finding: number, answer: Answer) => void;
  /** Words on the finding that is open. */
  onWords: () => void;
  mayRule: boolean;
};

function Item({
  finding,
  size,
  open,
  onSelect,
  onAnswer,
  onWords,
  mayRule,
}: {
  finding: Finding;
  size: number | null;
  open: boolean;
  onSelect: () => void;
  onAnswer: (answer: Answer) => void;
  onWords: () => void;
  mayRule: boolean;
}) {
  const row = useRef<HTMLLIElement>(null);
  const rated = finding.severities[String(size)];
  useEffect(() => {
    if (open) row.current?.scrollIntoView({ block: "nearest" });
  }, [open]);
  return (
    <li ref={row} className="py-1" data-finding={finding.id}>
      <button
        type="button"
        aria-expanded={open}
        onClick={onSelect}
        className="flex w-full items-center gap-2 border-0 bg-transparent p-0 text-left"
      >
        <KindPicture kind={finding.kind} />
        <span className="flex-1">
          {finding.kind}
          {finding.runner_up ? ` (or ${finding.runner_up})` : ""}, {rated?.word ?? "?"}
          {rated?.under_bar ? " (under the bar)" : ""}
        </span>
        <SeverityStrokes word={rated?.word ?? null} />
      </button>
      <p className="m-0 pl-[26px] small">
        {Math.round(finding.confidence * 100)} % sure; {answerWords[finding.answer]}
        {finding.words && `: “${finding.words}”`}
      </p>
      {open && (
        <div className="pt-1">
          <EvidencePicture finding={finding.id} kind={finding.kind} />
          <EvidencePlots finding={finding} />
          {mayRule && (
            <div
              className="mt-1 flex flex-wrap gap-1"
              role="group"
              aria-label={`your answer to: ${finding.kind}`}
            >
              {(
                [
                  ["confirmed", "confirmed"],
                  ["not there", "notThere"],
                  ["acceptable", "acceptable"],
                ] as const
              ).map(([answer, action]) => (
                <button
                  key={answer}
                  type="button"
                  className="plain px-2"
                  aria-pressed={finding.answer === answer}
                  style={
                    finding.answer === answer
                      ? { borderColor: "var(--ink)", borderWidth: 2 }
                      : undefined
                  }
                  onClick={() => onAnswer(finding.answer === answer ? "unread" : answer)}
                >
                  {answerWords[answer]} <Key action={action} />
                </button>
              ))}
              <button type="button" className="plain px-2" onClick={onWords}>
                words <Key action="findingWords" />
              </button>
            </div>
          )}
        </div>
      )}
    </li>
  );
}

/** Groups by place and cause, worst first; at most three are open. */
export function Findings({
  detail,
  ordered,
  size,
  selected,
  onSelect,
  onAnswer,
  onWords,
  mayRule,
}: Props) {
  const [all, setAll] = useState(false);
  const groups = [...new Set(ordered.map((finding) => finding.group))];
  const own = ordered.find((finding) => finding.id === selected)?.group;
  const open = groups.filter((group, place) => place < 3 || group === own || all);
  const abstained = Object.entries(detail.abstained);
  return (
    <div>
      {ordered.length === 0 && (
        <p className="m-0">
          Nothing to report in what was examined:{" "}
          {Object.keys(detail.scores)
            .filter((kind) => !(kind in detail.abstained))
            .join(", ") || "no kind could tell"}
          .
        </p>
      )}
      {open.map((name) => {
        const group = detail.groups.find((one) => one.id === name);
        return (
          <section key={name} className="rule-top py-1" aria-label={group?.words ?? name}>
            <h3 className="text-[0.9375rem]">{group?.words}</h3>
            <ul className="m-0 list-none p-0">
              {ordered
                .filter((finding) => finding.group === name)
                .map((finding) => (
                  <Item
                    key={finding.id}
                    finding={finding}
                    size={size}
                    open={finding.id === selected}
                    onSelect={() => onSelect(finding.id)}
                    onAnswer={(answer) => onAnswer(finding.id, answer)}
                    onWords={onWords}
                    mayRule={mayRule}
                  />
                ))}
            </ul>
          </section>
        );
      })}
      {open.length < groups.length && (
        <button type="button" className="plain mt-1" onClick={() => setAll(true)}>
          {counted(groups.length - open.length, "more group")}
        </button>
      )}
      {abstained.length > 0 && (
        <section className="rule-top py-1" aria-label="Cannot tell">
          <h3 className="text-[0.9375rem]">Cannot tell</h3>
          <ul className="m-0 list-none p-0">
            {abstained.map(([kind, reason]) => (
              <li key={kind} className="flex gap-2">
                <KindPicture kind={kind} />
                <span>
                  {kind}: {reason}
                </span>
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}
