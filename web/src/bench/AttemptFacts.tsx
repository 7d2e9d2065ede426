import type { Attempt, Bench, Region } from "../api/client";
import { written } from "../facts/facts";
import { counted, seconds } from "../ui/words";

/** Rounds, time and cost of a region so far. */
const spentWords = (spent: NonNullable<Region["spent"]>): string =>
  [
    counted(spent.rounds, "round"),
    spent.seconds > 0 ? seconds(spent.seconds) : "",
    spent.cost ? `cost ${spent.cost}` : "",
  ]
    .filter(Boolean)
    .join(", ");

const settingsWords = (settings: Record<string, unknown>): string | null =>
  Object.entries(settings)
    .map(([name, value]) => `${name} ${written(value)}`)
    .join(", ") || null;

/** What is known of an attempt here, as a small table. */
export function AttemptFacts({
  bench,
  attempt,
  region,
  best,
  worked,
}: {
  bench: Bench;
  attempt: Attempt;
  region: Region;
  best: boolean;
  /** How the area that was worked lies to the outline. */
  worked: string | null;
}) {
  const from = bench.attempts.filter((one) => attempt.made_from.includes(one.id));
  const rows: [string, string | null][] = [
    [
      "method",
      attempt.method.includes(attempt.kind)
        ? attempt.method
        : `${attempt.method} (${attempt.kind})`,
    ],
    ["maker", attempt.maker || null],
    ["time", attempt.seconds !== null ? seconds(attempt.seconds) : null],
    ["cost", attempt.cost],
    ["made from", from.length ? from.map((one) => `attempt ${one.number}`).join(", ") : null],
    ["settings", settingsWords(attempt.settings)],
    ["cropped", attempt.cropped_when ? `${attempt.cropped_when} it was worked on` : null],
    ["left the house", attempt.left_house === null ? null : attempt.left_house ? "yes" : "no"],
    ["may not be used", attempt.barred],
    ["worked", worked],
    ["backdrop", region.backdrop],
    ["sent back", region.spent && spentWords(region.spent)],
    [
      "file",
      `${attempt.image.width.toLocaleString()} × ${attempt.image.height.toLocaleString()}, ${attempt.image.facts}`,
    ],
    ["rank", best ? "best here" : null],
  ];
  return (
    <table className="facts">
      <tbody>
        {rows.map(([name, value]) =>
          value === null ? null : (
            <tr key={name}>
              <th scope="row">{name}</th>
              <td>{value}</td>
            </tr>
          ),
        )}
      </tbody>
    </table>
  );
}
