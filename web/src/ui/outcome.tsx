import type React from "react";

/** What became of a region that was sent back. Shapes first: a closed loop, an open eye, two level lines, a stair going down, a spark. */
const shapes: Record<string, React.ReactNode> = {
  fixed: <path d="M8 2.6a5.4 5.4 0 1 1-4.6 2.6M3 2v3.4h3.4" />,
  "to be looked at": (
    <>
      <path d="M1.8 8s2.400-4 6.200-4 6.200 4 6.200 4-2.400 4-6.200 4-6.200-4-6.200-4z" />
      <circle cx="8" cy="8" r="1.4" />
    </>
  ),
  "still there": <path d="M3 6h10M3 10.4h10" />,
  worse: <path d="M2 3.5h4v4h4v4h4" />,
  "new flaw": <path d="M8 2v4M8 10v4M2 8h4M10 8h4" />,
};

export function OutcomeShape({ word, side = 16 }: { word: string; side?: number }) {
  return (
    <svg
      width={side}
      height={side}
      viewBox="0 0 16 16"
      aria-hidden="true"
      fill="none"
      stroke="currentColor"
      strokeWidth="1.9"
    >
      {shapes[word]}
    </svg>
  );
}
