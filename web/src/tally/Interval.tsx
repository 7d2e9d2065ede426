import { scaleLinear } from "d3-scale";
import type { Share } from "../api/tally";
import { percent, shareWords } from "./words";

const WIDTH = 300,
  HEIGHT = 22,
  EDGE = 6;

/** How many held of how many, as a point with what is likely around it; 0 at the left, all at the right. */
export function Interval({ share }: { share: Share }) {
  const x = scaleLinear([0, 1], [EDGE, WIDTH - EDGE]);
  if (share.of === 0) return <span className="small">nothing to tell from</span>;
  const here = x(share.count / share.of);
  const middle = HEIGHT / 2;
  return (
    <svg
      width={WIDTH}
      height={HEIGHT}
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={`${shareWords(share)}; likely ${percent(share.low)} to ${percent(share.high)}`}
    >
      <path d={`M${x(0)} ${middle}H${x(1)}`} stroke="currentColor" opacity="0.35" />
      {[0, 0.25, 0.5, 0.75, 1].map((at) => (
        <path key={at} d={`M${x(at)} ${middle - 4}v8`} stroke="currentColor" opacity="0.35" />
      ))}
      <rect
        x={x(share.low)}
        y={middle - 4}
        width={Math.max(2, x(share.high) - x(share.low))}
        height="8"
        fill={share.few ? "none" : "currentColor"}
        stroke="currentColor"
        strokeDasharray={share.few ? "3 2" : undefined}
        opacity={share.few ? 0.8 : 0.4}
      />
      <path d={`M${here} ${middle - 8}v16`} stroke="currentColor" strokeWidth="3" />
    </svg>
  );
}
