import type { ShotAttempt, ShotFinding, ShotRegion } from "../api/shots";

export type Row = {
  key: string;
  region: number;
  kind: string;
  finding: ShotFinding;
};

/** The rows of the strip for one attempt: what was found, by region, the most visible first. */
export function rowsOf(attempt: ShotAttempt, regions: readonly ShotRegion[]): Row[] {
  return regions.flatMap((region) => {
    const checked = attempt.check?.regions.find((one) => one.region === region.number);
    return (checked?.findings ?? []).map((finding, at) => ({
      key: `${region.number} ${finding.kind} ${at}`,
      region: region.number,
      kind: finding.kind,
      finding,
    }));
  });
}

/** How bad each frame is as an area over the frames: 0 at the bottom, 1 at the top of a unit square as wide as there are frames. What is not known
 * is left open. */
export function areaOf(course: readonly (number | null)[]): string {
  const parts: string[] = [];
  course.forEach((value, frame) => {
    if (value === null || value <= 0.02) return;
    const top = (1 - Math.min(1, value)).toFixed(3);
    parts.push(`M${frame} 1V${top}H${frame + 1}V1Z`);
  });
  return parts.join("");
}

/** Frames next to each other as ranges. */
export function runsOf(frames: readonly number[]): { first: number; last: number }[] {
  const found: { first: number; last: number }[] = [];
  for (const frame of frames) {
    const open = found.at(-1);
    if (open && frame === open.last + 1) open.last = frame;
    else found.push({ first: frame, last: frame });
  }
  return found;
}
