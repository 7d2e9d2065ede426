import { useId, type ReactNode } from "react";
import type { MethodKind } from "../api/client";
import { KINDS, begunFrom, type Facts, type Known } from "./facts";

/** Method, kind, maker, time and cost. A method that is known brings what was said of it last. In a row of many (`tight`) labels are heard only. */
export function MethodFacts({
  facts,
  methods,
  label,
  tight = false,
  onChange,
}: {
  facts: Facts;
  methods: Known[];
  label: string;
  tight?: boolean;
  onChange: (facts: Facts) => void;
}) {
  const list = useId();
  const method = (name: string) => {
    const known = methods.find((one) => one.name === name);
    onChange(
      known
        ? { ...begunFrom(known, name), seconds: facts.seconds, cost: facts.cost }
        : { ...facts, method: name },
    );
  };
  const part = (words: string, control: (props: { "aria-label": string }) => ReactNode) =>
    tight ? (
      control({ "aria-label": `${label}: ${words}` })
    ) : (
      <label className="flex flex-col">
        {words}
        {control({ "aria-label": `${label}: ${words}` })}
      </label>
    );
  return (
    <span className={`flex flex-wrap ${tight ? "items-center gap-1" : "items-end gap-3"}`}>
      {part("method", (named) => (
        <input
          {...named}
          className={`field ${tight ? "w-[132px]" : "w-[220px]"}`}
          list={list}
          placeholder={tight ? "method" : undefined}
          maxLength={120}
          value={facts.method}
          onChange={(event) => method(event.target.value)}
        />
      ))}
      {part("kind of method", (named) => (
        <select
          {...named}
          className="field"
          value={facts.kind}
          onChange={(event) => onChange({ ...facts, kind: event.target.value as MethodKind })}
        >
          {KINDS.map((kind) => (
            <option key={kind}>{kind}</option>
          ))}
        </select>
      ))}
      {part("maker", (named) => (
        <input
          {...named}
          className={`field ${tight ? "w-[96px]" : "w-[180px]"}`}
          placeholder={tight ? "maker" : undefined}
          maxLength={120}
          value={facts.maker}
          onChange={(event) => onChange({ ...facts, maker: event.target.value })}
        />
      ))}
      {part("seconds", (named) => (
        <input
          {...named}
          className="field w-[92px]"
          type="number"
          min={0}
          step="any"
          placeholder={tight ? "seconds" : undefined}
          value={facts.seconds}
          onChange={(event) => onChange({ ...facts, seconds: event.target.value })}
        />
      ))}
      {part("cost", (named) => (
        <input
          {...named}
          className={`field ${tight ? "w-[66px]" : "w-[92px]"}`}
          type="number"
          min={0}
          step="0.01"
          placeholder={tight ? "cost" : undefined}
          value={facts.cost}
          onChange={(event) => onChange({ ...facts, cost: event.target.value })}
        />
      ))}
      <datalist id={list}>
        {methods.map((one) => (
          <option key={one.name} value={one.name} />
        ))}
      </datalist>
    </span>
  );
}
