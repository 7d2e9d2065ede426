import { useId } from "react";
import type { MethodKind } from "../api/client";
import { KINDS, begunFrom, type Facts, type Known } from "./facts";

/** Method, kind, maker, time and cost in one line. A method that is known brings what was said of it last. */
export function MethodFacts({
  facts,
  methods,
  label,
  onChange,
}: {
  facts: Facts;
  methods: Known[];
  label: string;
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
  return (
    <span className="flex flex-wrap items-center gap-1">
      <input
        className="field w-[132px]"
        aria-label={`${label}: method`}
        list={list}
        placeholder="method"
        maxLength={120}
        value={facts.method}
        onChange={(event) => method(event.target.value)}
      />
      <select
        className="field"
        aria-label={`${label}: kind of method`}
        value={facts.kind}
        onChange={(event) => onChange({ ...facts, kind: event.target.value as MethodKind })}
      >
        {KINDS.map((kind) => (
          <option key={kind}>{kind}</option>
        ))}
      </select>
      <input
        className="field w-[96px]"
        aria-label={`${label}: maker`}
        placeholder="maker"
        maxLength={120}
        value={facts.maker}
        onChange={(event) => onChange({ ...facts, maker: event.target.value })}
      />
      <input
        className="field w-[92px]"
        aria-label={`${label}: seconds`}
        type="number"
        min={0}
        step="any"
        placeholder="seconds"
        value={facts.seconds}
        onChange={(event) => onChange({ ...facts, seconds: event.target.value })}
      />
      <input
        className="field w-[66px]"
        aria-label={`${label}: cost`}
        type="number"
        min={0}
        step="0.01"
        placeholder="cost"
        value={facts.cost}
        onChange={(event) => onChange({ ...facts, cost: event.target.value })}
      />
      <datalist id={list}>
        {methods.map((one) => (
          <option key={one.name} value={one.name} />
        ))}
      </datalist>
    </span>
  );
}
