import type React from "react";

/** Marks are shapes first. A verdict's shape says what happens to the place; strokes say how visible its worst flaw is. */

export type CellState =
  | "passes"
  | "passes at size"
  | "rework"
  | "rebuild"
  | "not needed"
  | "undecided"
  | "asked"
  | "checking"
  | "failed";

const strokes: Record<string, number> = {
  "not visible at this size": 0,
  faint: 1,
  clear: 2,
  glaring: 3,
};

/** How visible: no stroke, one, two, three; a level line where nothing was found. */
export function SeverityStrokes({ word }: { word: string | null }) {
  const count = word === null ? -1 : (strokes[word] ?? 0);
  return (
    <svg
      width="16"
      height="14"
      viewBox="0 0 16 14"
      aria-hidden="true"
      fill="none"
      stroke="currentColor"
      strokeWidth="2"
    >
      {count === -1 && <path d="M3 11h10" strokeWidth="1.4" />}
      {count === 0 && <path d="M3 11h10" strokeWidth="1.4" strokeDasharray="2 2" />}
      {Array.from({ length: Math.max(0, count) }, (_, i) => (
        <path key={i} d={`M${4 + i * 4} 12V${9 - i * 3}`} />
      ))}
    </svg>
  );
}

const shapes: Record<CellState, React.ReactNode> = {
  // A whole ring holds; half a ring holds at a size; a hook goes back; stones are laid anew; a speck is not needed.
  passes: <circle cx="8" cy="8" r="5.2" strokeWidth="2.6" />,
  "passes at size": <path d="M2.8 8a5.2 5.2 0 0 0 10.4 0M2.8 5.4h10.4" strokeWidth="2.2" />,
  rework: <path d="M4 3.5v5a3 3 0 0 0 3 3h6M10.5 8.5l3 3-3 3" strokeWidth="1.9" />,
  rebuild: <path d="M2 13.2h12M2 8.6h12M2 4h12M5.5 4v4.6M10.5 8.6v4.6" strokeWidth="1.7" />,
  "not needed": <circle cx="8" cy="8" r="1.1" fill="currentColor" stroke="none" />,
  undecided: (
    <rect
      x="3"
      y="3"
      width="10"
      height="10"
      strokeWidth="1.6"
      style={{ fill: "var(--await)", stroke: "#000" }}
    />
  ),
  // Two rings that meet: another pair of eyes.
  asked: (
    <>
      <circle cx="5.6" cy="8" r="3.6" strokeWidth="1.6" />
      <circle cx="10.4" cy="8" r="3.6" strokeWidth="1.6" />
    </>
  ),
  checking: <path d="M8 2.5v3M8 10.5v3M2.5 8h3M10.5 8h3" strokeWidth="1.6" />,
  failed: <path d="M8 2.5v7M8 12v1.6" strokeWidth="2.4" />,
};

export function StateShape({ state }: { state: CellState }) {
  return (
    <svg
      width="16"
      height="16"
      viewBox="0 0 16 16"
      aria-hidden="true"
      fill="none"
      stroke="currentColor"
    >
      {shapes[state]}
    </svg>
  );
}

const kinds: Record<string, React.ReactNode> = {
  // Each looks like its flaw.
  repeat: (
    <>
      <path d="M2.5 12.5l2.2-5 2.6 2 1.2-2.5" />
      <path d="M8.5 9.5l2.2-5 2.6 2 1.2-2.5" />
      <path d="M4.5 4.5l3-2" strokeDasharray="1.5 1.5" />
    </>
  ),
  seam: (
    <>
      <path d="M8 1.5v13" strokeDasharray="2.5 1.6" />
      <path d="M1.5 6h6M1.5 10h6M8.5 7.6h6M8.5 11.6h6" />
    </>
  ),
  smear: (
    <>
      <path
        d="M1.5 4.5c4-2.5 8.5 2 13-.6M1.5 8.4c4-2.5 8.5 2 13-.6M1.5 12.3c4-2.5 8.5 2 13-.6"
        strokeWidth="1.9"
        opacity="0.9"
      />
    </>
  ),
  line: (
    <>
      <path d="M1 5.4h6.2M8.8 10.2H15" strokeWidth="1.9" />
      <path d="M8 2v12" strokeDasharray="1.5 1.5" />
    </>
  ),
  untouched: (
    <>
      <path d="M2.5 13.5V6l3-3 3 3v7.5z" />
      <path d="M1 13.5h14" />
      <path d="M11 5l3 3M14 5l-3 3" />
    </>
  ),
  // A sliver and specks where a thing was cut out; a low sun's long spot beside a gap; a patch lit otherwise; grain on one half only.
  residue: (
    <>
      <path d="M3 13.5c.4-5 2-9 5-11" strokeWidth="2.2" />
      <circle cx="10.5" cy="9.5" r="1" fill="currentColor" stroke="none" />
      <circle cx="12.6" cy="12.4" r="0.8" fill="currentColor" stroke="none" />
    </>
  ),
  shadow: (
    <>
      <rect x="3" y="2" width="4" height="7" strokeDasharray="1.5 1.5" />
      <path d="M3 9.6h4l7 4.4h-4.4z" fill="currentColor" stroke="none" />
    </>
  ),
  tone: (
    <>
      <path d="M1.5 1.5h13v13h-13z" strokeWidth="1" />
      <ellipse cx="8.6" cy="8" rx="4.2" ry="3.4" fill="currentColor" stroke="none" opacity="0.65" />
    </>
  ),
  grain: (
    <>
      <path d="M8 1.5v13" strokeWidth="1" />
      {[
        [2.2, 3],
        [5, 2.4],
        [3.6, 5.6],
        [6.2, 6.6],
        [2.4, 8.4],
        [5, 9.8],
        [3, 12],
        [6, 13],
      ].map(([x, y]) => (
        <circle key={`${x}${y}`} cx={x} cy={y} r="0.85" fill="currentColor" stroke="none" />
      ))}
    </>
  ),
  soft: (
    <>
      <path d="M2 12V4" strokeWidth="2" />
      <path d="M6.5 12V4" strokeWidth="2.6" opacity="0.65" />
      <path d="M12 12V4" strokeWidth="5" opacity="0.35" />
    </>
  ),
  invented: (
    <>
      <path d="M1.5 11.5h3M11.5 11.5h3M1.5 14h3.6M10.9 14h3.6" />
      <path d="M8 14.2c-3.4-1-3.4-5.6-.4-6.4-1.6-2.2.4-5 2.6-4.4" strokeWidth="1.8" />
      <circle cx="11.4" cy="3.6" r="1.3" />
    </>
  ),
  overreach: (
    <>
      <rect x="2" y="5" width="7" height="7" strokeDasharray="1.6 1.4" />
      <path d="M9.6 5.600l3.6-3.4" strokeWidth="1.8" />
      <circle cx="13" cy="2.8" r="1.6" fill="currentColor" stroke="none" />
    </>
  ),
  // A bite out of a board; a ball lit from the wrong side of its shadow; courses that do not shrink; steps where a slope should be.
  lost: <path d="M1.5 4h13v8h-4.2a2.4 2.4 0 1 1-4.600 0H1.500z" />,
  light: (
    <>
      <circle cx="8" cy="7" r="4.2" />
      <path d="M8 2.800a4.200 4.200 0 0 1 0 8.400z" fill="currentColor" stroke="none" />
      <path d="M9 14h6" strokeWidth="2" />
    </>
  ),
  scale: (
    <path d="M1.5 13.500L6 2.500h4l4.500 11M3 10h10M4.200 6.500h7.600M8 2.500v4M6 6.500v3.500M10.500 6.500v3.500" />
  ),
  banding: <path d="M1.500 13.500h3.200v-3.500h3.200V6.500h3.200V3h3.400" strokeWidth="1.9" />,
  // Over time: a patch that leaves its frame; a lamp's beats; one bar that stands out; bubbles; strokes that thin out; a bar with a bite.
  drift: (
    <>
      <rect x="2" y="4" width="8" height="8" strokeDasharray="1.6 1.4" />
      <path d="M7 8h7M11.5 5.5L14 8l-2.500 2.500" strokeWidth="1.8" />
    </>
  ),
  flicker: <path d="M1 9h2V4h2.500v8H8V5h2.500v6H13V7h2" strokeWidth="1.6" />,
  pop: (
    <>
      <path d="M1.500 12.500h13" />
      <path d="M3 12V9.500M5.500 12V9.500M10.500 12V9.500M13 12V9.500" strokeWidth="1.6" />
      <path d="M8 12V2.500" strokeWidth="2.600" />
    </>
  ),
  boiling: (
    <>
      <circle cx="5" cy="10.500" r="2.600" />
      <circle cx="10.800" cy="9" r="3.200" strokeDasharray="2 1.400" />
      <circle cx="7.500" cy="4.500" r="1.800" />
    </>
  ),
  softening: <path d="M2 3v10M4.200 3v10M7 4.500v7M10 6v4M13 7.300v1.400" strokeWidth="1.500" />,
  occlusion: (
    <>
      <path d="M6 1.500v4M6 10.500v4M10.500 1.500v13" strokeWidth="1.700" />
      <path d="M6 5.500c2.600.6 2.600 4.400 0 5" strokeDasharray="1.500 1.200" />
    </>
  ),
  halo: (
    <>
      <circle cx="8" cy="8" r="3.4" fill="currentColor" stroke="none" />
      <circle cx="8" cy="8" r="6" strokeWidth="1.8" />
    </>
  ),
};

export function KindPicture({ kind }: { kind: string }) {
  return (
    <svg
      className="shrink-0"
      width="18"
      height="18"
      viewBox="0 0 16 16"
      aria-hidden="true"
      fill="none"
      stroke="currentColor"
      strokeWidth="1.4"
    >
      {kinds[kind] ?? <path d="M3 3h10v10H3z" />}
    </svg>
  );
}
