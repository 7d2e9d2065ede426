import type { Bench } from "../api/client";

/** Regions of which it was ruled that the thing stays. */
export function Left({
  left,
  mayRule,
  onAgain,
}: {
  left: Bench["left"];
  mayRule: boolean;
  onAgain: (region: number) => void;
}) {
  if (left.length === 0) return null;
  return (
    <ul className="rule-top m-0 mt-1 list-none p-0 small" aria-label="What stays">
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
    </ul>
  );
}
