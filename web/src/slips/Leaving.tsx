import type { Slip, Shapes } from "../api/client";
import { outlined } from "../stage/evidence";
import { WhatLeaves } from "../stage/WhatLeaves";
import { counted } from "../ui/words";

/** What leaves the house if a slip is sent to the outside service, and what that costs. */
export function Leaving({
  slip,
  offer,
  tier,
}: {
  slip: Slip;
  offer: Shapes["SlipOutside"];
  tier: string;
}) {
  const { outside, regions } = offer;
  const terms = outside.tiers.find((one) => one.name === tier);
  const left = Math.max(0, outside.credits - outside.spent);
  const credits = (terms?.credits ?? 0) * regions.length;
  return (
    <section className="rule-top py-3" aria-label="What leaves the house">
      <h2 className="mt-0 text-lg">What leaves the house</h2>
      {regions.length === 0 && (
        <p className="m-0" role="status">
          The attempt is being prepared; what leaves of it is shown in a moment.
        </p>
      )}
      <div className="grid grid-cols-2 gap-4">
        {regions.map(({ region, leaves }) => {
          const part = slip.regions.find((one) => one.region === region);
          return (
            <figure key={region} className="m-0">
              <figcaption>
                {part?.number} {part?.name}
              </figcaption>
              <WhatLeaves
                image={slip.image}
                outlines={part ? [outlined(part)] : []}
                leaves={leaves}
                largest={outside.largest}
                label={`what would leave of ${part?.name}`}
              />
            </figure>
          );
        })}
      </div>
      <p className="mb-0">
        {counted(credits, "credit")} in all; {outside.spent} of {outside.credits} credits of this
        job are spent. {outside.name} is given the outline that the slip asks for, and no words. Its{" "}
        {counted(outside.takes, "take")} become attempts; the first answers the slip. It is written
        down.
      </p>
      {credits > left && (
        <p className="mb-0" role="alert">
          That is more than the {counted(left, "credit")} that are left.
        </p>
      )}
      {outside.resting && (
        <p className="mb-0" role="status">
          It failed several times in a row and is left alone for a while; what is sent waits.
        </p>
      )}
    </section>
  );
}
