import type { Slip } from "../api/client";

/** What failed besides, in this attempt or another: a slip that is not sent yet can take it on. */
export function Offered({
  slip,
  onTake,
}: {
  slip: Slip;
  onTake: (cell: number, instead: number | null) => void;
}) {
  const taken = new Map(slip.regions.map((region) => [region.region, region]));
  const others = slip.offered.filter((one) => taken.get(one.region)?.sent_cell !== one.cell);
  if (others.length === 0) return null;
  return (
    <section className="rule-top py-2" aria-label="What failed besides">
      <h2 className="text-[1rem]">What failed besides</h2>
      <ul className="m-0 list-none p-0">
        {others.map((one) => {
          const instead = taken.get(one.region);
          return (
            <li key={one.cell} className="flex items-center gap-2 py-0.5">
              <span>
                {one.number} {one.name} in attempt {one.attempt_number}: {one.ruling}
              </span>
              <button
                type="button"
                className="quiet"
                onClick={() => onTake(one.cell, instead?.sent_cell ?? null)}
              >
                {instead ? `take it instead of attempt ${instead.attempt_number}'s` : "take it on"}
              </button>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
