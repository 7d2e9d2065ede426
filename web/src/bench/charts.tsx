import type { Finding } from "../api/client";
import { number } from "../ui/words";

type Measure = Finding["measure"];

/** A value beside what this picture does by itself. */
export function NaturalGauge({ measure }: { measure: Measure }) {
  const { value, natural } = measure;
  const low = Math.min(natural.low, value, 0), high = Math.max(natural.high, value) * 1.08 || 1;
  const x = (v: number) => 4 + ((v - low) / (high - low || 1)) * 252;
  return (
    <figure className="m-0">
      <svg width="260" height="26" viewBox="0 0 260 26" role="img" aria-label={`${measure.name}: ${number(value)}; natural here ${number(natural.low)} to ${number(natural.high)}`}>
        <path d="M4 17h252" stroke="currentColor" strokeWidth="1" />
        <rect x={x(natural.low)} y="11" width={Math.max(3, x(natural.high) - x(natural.low))} height="12" fill="currentColor" opacity="0.45" />
        <path d={`M${x(value)} 4v19`} stroke="currentColor" strokeWidth="3" />
      </svg>
      <figcaption className="text-[13px]">{measure.name}: here it reads {number(natural.low)} to {number(natural.high)}; this one reads <strong>{number(value)}</strong> ({measure.unit})</figcaption>
    </figure>
  );
}

type Along = { value: number[]; low: number[]; high: number[]; start: number; end: number; unit: string };
type Profile = { offset_px: number[]; lightness: number[] };

/** The measure all along the boundary, with the band of its parallels; the stretch that was found is marked. */
export function AlongChart({ along }: { along: Along }) {
  const n = along.value.length;
  const top = Math.max(...along.value, ...along.high) || 1;
  const x = (i: number) => 4 + (i / Math.max(1, n - 1)) * 252;
  const y = (v: number) => 52 - (v / top) * 46;
  const band = [...along.high.map((v, i) => `${x(i)},${y(v)}`), ...along.low.map((v, i) => `${x(i)},${y(v)}`).reverse()].join(" ");
  return (
    <figure className="m-0">
      <svg width="260" height="60" viewBox="0 0 260 60" role="img" aria-label={`along the boundary: up to ${number(top)} ${along.unit}`}>
        <polygon points={band} fill="currentColor" opacity="0.35" />
        <polyline points={along.value.map((v, i) => `${x(i)},${y(v)}`).join(" ")} fill="none" stroke="currentColor" strokeWidth="1.5" />
        <path d={`M${x(along.start)} 57H${x(along.end)}`} stroke="currentColor" strokeWidth="4" />
      </svg>
      <figcaption className="text-[13px]">along the boundary; the band is what its parallels read, the bar is this stretch</figcaption>
    </figure>
  );
}

/** Lightness across the boundary, inside left, outside right. */
export function ProfileChart({ profile }: { profile: Profile }) {
  const low = Math.min(...profile.lightness), high = Math.max(...profile.lightness);
  const span = Math.max(2, high - low);
  const x = (i: number) => 4 + (i / (profile.lightness.length - 1)) * 252;
  const y = (v: number) => 46 - ((v - low) / span) * 40;
  return (
    <figure className="m-0">
      <svg width="260" height="52" viewBox="0 0 260 52" role="img" aria-label={`lightness across the boundary, ${number(low, 3)} to ${number(high, 3)}`}>
        <path d="M130 2v48" stroke="currentColor" strokeDasharray="3 3" />
        <polyline points={profile.lightness.map((v, i) => `${x(i)},${y(v)}`).join(" ")} fill="none" stroke="currentColor" strokeWidth="1.8" />
      </svg>
      <figcaption className="flex justify-between text-[13px]"><span>30 px inside</span><span>L* {number(low, 3)} to {number(high, 3)}</span><span>30 px outside</span></figcaption>
    </figure>
  );
}

type Evidence = { type: string; along?: Along; profile?: Profile; offset_px?: number[]; mirrored?: boolean; patches?: number; source_inside_region?: boolean };

/** A finding's evidence as plots. */
export function EvidencePlots({ finding }: { finding: Finding }) {
  const evidence = finding.evidence as unknown as Evidence;
  return (
    <div className="flex flex-col gap-1">
      <NaturalGauge measure={finding.measure} />
      {evidence.type === "copy" && evidence.offset_px && (
        <p className="m-0 text-[13px]">
          {evidence.mirrored ? "mirrored; " : ""}source {Math.abs(Math.round(evidence.offset_px[0] ?? 0))} px to the {(evidence.offset_px[0] ?? 0) < 0 ? "left" : "right"},{" "}
          {Math.abs(Math.round(evidence.offset_px[1] ?? 0))} px {(evidence.offset_px[1] ?? 0) < 0 ? "up" : "down"}{evidence.source_inside_region ? ", itself inside a fill" : ""}
        </p>
      )}
      {evidence.profile && <ProfileChart profile={evidence.profile} />}
      {evidence.along && <AlongChart along={evidence.along} />}
    </div>
  );
}
