import type { Bench } from "../api/client";

/** Regions of which it was ruled that the thing stays, and attempts that were withdrawn. */
export function Left({
  left,
  withdrawn,
  mayRule,
  onAgain,
  onAttempt,
}: {
  left: Bench["left"];
  withdrawn: Bench["withdrawn"];
  mayRule: boolean;
  onAgain: (region: number) => void;
  onAttempt: (attempt: number) => void;
}) {
  if (left.length + withdrawn.length === 0) return null;
  return (
    <ul
      className="rule-top m-0 mt-1 list-none p-0 small"
      aria-label="What stays, and what was withdrawn"
    >
      {left.map((one) => (
        <li key={one.id} className="py-0.5">
          {one.number} {one.name} stays, said {one.person}
          {one.words ? `: “${one.words}”` : ""}{" "}
          {mayRule && (
            <button type="button" className="plain px-1 py-0 small" onClick={() => onAgain(one.id)}>
              take it in again
            </button>
          )}
        </li>
      ))}
      {withdrawn.map((one) => (
        <li key={`attempt ${one.id}`} className="py-0.5">
          attempt {one.number}, {one.method}, was withdrawn{" "}
          {mayRule && (
            <button
              type="button"
              className="plain px-1 py-0 small"
              onClick={() => onAttempt(one.id)}
            >
              take it in again
            </button>
          )}
        </li>
      ))}
    </ul>
  );
}
