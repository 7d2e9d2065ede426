import { useEffect, useRef } from "react";
import type { Attempt } from "../api/client";
import { Key } from "../ui/Key";
import { KindPicture, SeverityStrokes } from "../ui/marks";
import { EvidencePlots } from "./charts";

type Beyond = NonNullable<Attempt["check_of"]>["outside"];

/** What an attempt changed outside every region: it belongs to no cell, so it stands below them. */
export function Outside({
  outside,
  size,
  chosen,
  onChoose,
  onPutBack,
}: {
  outside: Beyond;
  size: number | null;
  chosen: number | null;
  onChoose: (number: number | null) => void;
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
                <span className="block small">{one.words}</span>
              </button>
              {one.number === chosen && <EvidencePlots finding={one} />}
            </li>
          );
        })}
      </ul>
    </section>
  );
}
