import type { Attempt, Bench } from "../api/client";
import { AidControls } from "./AidControls";
import { CompareBar } from "./CompareBar";
import type { Aids } from "./useAids";
import type { Compare } from "./useCompare";
import { ZoomButtons, type Zooming } from "./ZoomButtons";

type Props = {
  bench: Bench;
  attempt: Attempt;
  compare: Compare;
  aids: Aids;
  zooming: Zooming;
};

/** What is compared, seen through what, how near: one quiet row over the picture. */
export function ToolRow({ bench, attempt, compare, aids, zooming }: Props) {
  return (
    <div
      className="tools flex min-h-[34px] flex-wrap items-center gap-x-2 gap-y-1 border-b px-2"
      style={{ borderColor: "var(--line)" }}
    >
      <CompareBar compare={compare} bench={bench} attempt={attempt} />
      <AidControls aids={aids} />
      <ZoomButtons zoom={zooming} />
    </div>
  );
}
