import { scaleLinear } from "d3-scale";
import type { LineFlaw } from "../stage/evidence";
import type { Finding } from "../api/client";
import { number } from "../ui/words";

type Measure = Finding["measure"];

/** A value beside what this picture does by itself. */
export function NaturalGauge({ measure }: { measure: Measure }) {
  const { value, natural } = measure;
  const low = Math.min(natural.low, value, 0),
    high = Math.max(natural.high, value) * 1.08 || 1;
  const x = scaleLinear([low, high], [4, 256]);
  return (
    <figure className="m-0">
      <svg
        width="100%"
        height="26"
        viewBox="0 0 260 26"
        role="img"
        aria-label={`${measure.name}: ${number(value)}; natural here ${number(natural.low)} to ${number(natural.high)}`}
      >
        <path d="M4 17h252" stroke="currentColor" strokeWidth="1" />
        <rect
          x={x(natural.low)}
          y="11"
          width={Math.max(3, x(natural.high) - x(natural.low))}
          height="12"
          fill="currentColor"
          opacity="0.45"
        />
        <path d={`M${x(value)} 4v19`} stroke="currentColor" strokeWidth="3" />
      </svg>
      <figcaption className="small">
        {measure.name}: here it reads {number(natural.low)} to {number(natural.high)}; this one
        reads <strong>{number(value)}</strong> ({measure.unit})
      </figcaption>
    </figure>
  );
}

type Along = {
  value: number[];
  low: number[];
  high: number[];
  start: number;
  end: number;
  unit: string;
};
type Profile = { offset_px: number[]; lightness: number[]; low?: number[]; high?: number[] };

/** The measure all along the boundary, with the band of its parallels; the stretch that was found is marked. */
export function AlongChart({ along }: { along: Along }) {
  const n = along.value.length;
  const top = Math.max(...along.value, ...along.high) || 1;
  const x = scaleLinear([0, Math.max(1, n - 1)], [4, 256]);
  const y = scaleLinear([0, top], [52, 6]);
  const band = [
    ...along.high.map((v, i) => `${x(i)},${y(v)}`),
    ...along.low.map((v, i) => `${x(i)},${y(v)}`).reverse(),
  ].join(" ");
  return (
    <figure className="m-0">
      <svg
        width="100%"
        height="60"
        viewBox="0 0 260 60"
        role="img"
        aria-label={`along the boundary: up to ${number(top)} ${along.unit}`}
      >
        <polygon points={band} fill="currentColor" opacity="0.35" />
        <polyline
          points={along.value.map((v, i) => `${x(i)},${y(v)}`).join(" ")}
          fill="none"
          stroke="currentColor"
          strokeWidth="1.5"
        />
        <path d={`M${x(along.start)} 57H${x(along.end)}`} stroke="currentColor" strokeWidth="4" />
      </svg>
      <figcaption className="small">
        along the boundary; the band is what its parallels read, the bar is this stretch
      </figcaption>
    </figure>
  );
}

/** Lightness across the boundary, inside left, outside right, over the band of what control rims read. */
export function ProfileChart({ profile }: { profile: Profile }) {
  const { lightness, low: least = [], high: most = [] } = profile;
  const all = [...lightness, ...least, ...most];
  const low = Math.min(...all),
    high = Math.max(...all);
  const span = Math.max(2, high - low);
  const x = scaleLinear([0, lightness.length - 1], [4, 256]);
  const y = scaleLinear([low, low + span], [46, 6]);
  const band = [
    ...most.map((v, i) => `${x(i)},${y(v)}`),
    ...least.map((v, i) => `${x(i)},${y(v)}`).reverse(),
  ].join(" ");
  const beyond = lightness.filter((v, i) => v < (least[i] ?? v) || v > (most[i] ?? v)).length;
  return (
    <figure className="m-0" data-profile>
      <svg
        width="100%"
        height="52"
        viewBox="0 0 260 52"
        role="img"
        aria-label={`lightness across the boundary, ${number(Math.min(...lightness), 3)} to ${number(Math.max(...lightness), 3)}${band ? `; beyond what is natural at ${beyond} of ${lightness.length} distances` : ""}`}
      >
        {band && <polygon points={band} fill="currentColor" opacity="0.35" />}
        <path d="M130 2v48" stroke="currentColor" strokeDasharray="3 3" />
        <polyline
          points={lightness.map((v, i) => `${x(i)},${y(v)}`).join(" ")}
          fill="none"
          stroke="currentColor"
          strokeWidth="1.8"
        />
      </svg>
      <figcaption className="flex justify-between small">
        <span>30 px inside</span>
        <span>
          L* {number(Math.min(...lightness), 3)} to {number(Math.max(...lightness), 3)}
        </span>
        <span>30 px outside</span>
      </figcaption>
    </figure>
  );
}

export type Curve = {
  what: "step" | "spectrum";
  unit: string;
  at: number[];
  value: number[];
  low: number[];
  high: number[];
  found: boolean[];
};

/** A measure along places or sizes over the band of what is natural here: steps across the rim as they are, contrast of detail on two logarithmic scales. */
export function CurveChart({ curve, width = 260 }: { curve: Curve; width?: number }) {
  const spectrum = curve.what === "spectrum";
  const scaled = (v: number) => (spectrum ? Math.log2(Math.max(v, 0.01)) : v);
  const all = [...curve.value, ...curve.low, ...curve.high].map(scaled);
  const bottom = spectrum ? Math.min(...all) : 0,
    top = Math.max(...all, bottom + (spectrum ? 1 : 2));
  const places = curve.at.map((at) => (spectrum ? Math.log2(at) : at));
  const [first = 0, last = 1] = [places[0], places.at(-1)];
  const along = scaleLinear([first, last], [4, 256]);
  const x = (i: number) => along(places[i] ?? first);
  const up = scaleLinear([bottom, top], [60, 6]);
  const y = (v: number) => up(scaled(v));
  const band = [
    ...curve.high.map((v, i) => `${x(i)},${y(v)}`),
    ...curve.low.map((v, i) => `${x(i)},${y(v)}`).reverse(),
  ].join(" ");
  const most = Math.max(...curve.value);
  const sizes = [2, 4, 8, 16, 32].filter(
    (size) => spectrum && Math.log2(size) >= first && Math.log2(size) <= last,
  );
  const said = spectrum
    ? curve.at
        .map(
          (at, i) =>
            `${number(at)} px: ${number(curve.value[i] ?? 0)} inside, ${number(curve.low[i] ?? 0)} to ${number(curve.high[i] ?? 0)} around`,
        )
        .join("; ")
    : `step across the rim, CIEDE2000: up to ${number(most)}; parallels outside ${number(curve.low[0] ?? 0)} to ${number(curve.high[0] ?? 0)}`;
  return (
    <figure className="m-0" data-curve={curve.what}>
      <svg
        width={width}
        height={(width / 260) * (spectrum ? 78 : 68)}
        viewBox={`0 0 260 ${spectrum ? 78 : 68}`}
        role="img"
        aria-label={said}
      >
        <polygon points={band} fill="currentColor" opacity="0.35" />
        <polyline
          points={curve.value.map((v, i) => `${x(i)},${y(v)}`).join(" ")}
          fill="none"
          stroke="currentColor"
          strokeWidth="1.8"
        />
        {curve.found.map(
          (is, i) =>
            is && (
              <path
                key={i}
                d={`M${x(i)} 65H${x(Math.min(i + 1, places.length - 1))}`}
                stroke="currentColor"
                strokeWidth="4"
              />
            ),
        )}
        {sizes.map((size) => (
          <text
            key={size}
            x={4 + ((Math.log2(size) - first) / (last - first || 1)) * 252}
            y="75"
            fontSize="11"
            textAnchor={size === sizes[0] ? "start" : "middle"}
            fill="currentColor"
          >
            {size} px
          </text>
        ))}
      </svg>
      <figcaption className="small">
        {spectrum
          ? "contrast of detail by its size (L*, both scales logarithmic): the line inside, the band what lies around"
          : `colour step across the rim, up to CIEDE2000 ${number(most)}; the band is what parallels outside read, the bar is what was found`}
      </figcaption>
    </figure>
  );
}

type Detail = {
  what?: string;
  inside: number[];
  around: number[];
  wavelengths_px: number[];
  streaks?: { coherence: number; angle: number };
  ratio?: number;
  seen_in?: string;
};

/** Detail by its size: what is inside against what is around, both as bars from the same ground. */
export function DetailChart({ detail }: { detail: Detail }) {
  const top = Math.max(...detail.inside, ...detail.around) || 1;
  const step = 252 / detail.inside.length;
  const bar = scaleLinear([0, top], [0, 44]);
  return (
    <figure className="m-0">
      <svg
        width="100%"
        height="64"
        viewBox="0 0 260 64"
        role="img"
        aria-label={detail.wavelengths_px
          .map(
            (size, i) =>
              `${size} px: ${number(detail.inside[i] ?? 0)} inside, ${number(detail.around[i] ?? 0)} around`,
          )
          .join("; ")}
      >
        {detail.inside.map((value, i) => (
          <g key={i}>
            <rect
              x={6 + i * step}
              y={48 - bar(detail.around[i] ?? 0)}
              width={step * 0.38}
              height={Math.max(1, bar(detail.around[i] ?? 0))}
              fill="none"
              stroke="currentColor"
              strokeWidth="1.2"
            />
            <rect
              x={6 + i * step + step * 0.44}
              y={48 - bar(value)}
              width={step * 0.38}
              height={Math.max(1, bar(value))}
              fill="currentColor"
            />
            <text x={6 + i * step} y="61" fontSize="11" fill="currentColor">
              {detail.wavelengths_px[i]} px
            </text>
          </g>
        ))}
      </svg>
      <figcaption className="small">
        contrast of detail by its size: around (open), inside (filled)
        {detail.ratio !== undefined
          ? `; ${number(detail.ratio, 2)} times the grain around${detail.seen_in ? `, seen in ${detail.seen_in}` : ""}`
          : ""}
        {detail.streaks && detail.streaks.coherence > 0.45
          ? `; what is left runs at ${Math.round(detail.streaks.angle)}°`
          : ""}
      </figcaption>
    </figure>
  );
}

type LineEvidence = {
  what: LineFlaw;
  count: number;
  from_both_sides: boolean;
  faint?: boolean;
  horizon?: boolean;
  whole?: boolean;
  amount?: number;
  degrees?: number;
  at_least?: boolean;
  vanishing_point?: number[] | null;
  lines: { amount: number; angle: number }[];
};

/** How a fill as a whole departs from where it would go on. */
function asWhole({ what, at_least, amount = 0, degrees = 0 }: LineEvidence): string {
  const least = at_least ? "at least " : "";
  if (what === "scale")
    return `is ${least}${number(Math.abs(amount), 1)} % too ${amount > 0 ? "large" : "small"}`;
  return `lies ${least}${what === "kink" ? `turned by ${number(degrees, 1)}°` : what === "shear" ? `aslant by ${number(degrees, 1)}°` : `${number(amount, 1)} px aside`}`;
}

/** Each broken line as it runs: level where it should, aside or gone where it does not. */
export function LineChart({ evidence }: { evidence: LineEvidence }) {
  const some = evidence.lines.slice(0, 4);
  const most = Math.max(...some.map((line) => line.amount), 1e-6);
  const undulates = evidence.whole && evidence.what === "wave";
  return (
    <figure className="m-0">
      <svg
        width="100%"
        height={some.length * 18 + 4}
        viewBox={`0 0 260 ${some.length * 18 + 4}`}
        role="img"
        aria-label={`${evidence.count} lines, ${evidence.what}`}
      >
        {some.map((line, i) => {
          const y = 10 + i * 18,
            aside = (line.amount / most) * 6;
          return (
            <g key={i} stroke="currentColor" strokeWidth="2" fill="none">
              {!undulates && (
                <path d={`M4 ${y}H84${evidence.from_both_sides ? ` M176 ${y}H256` : ""}`} />
              )}
              <path d={`M84 ${y}H176`} strokeWidth="1" strokeDasharray="4 3" />
              {(evidence.what === "offset" ||
                evidence.what === "scale" ||
                evidence.what === "shear") && <path d={`M84 ${y + aside}H176`} />}
              {evidence.what === "kink" && <path d={`M84 ${y}L176 ${y + aside}`} />}
              {(evidence.what === "tilt" || evidence.what === "course") && (
                <path d={`M84 ${y - aside / 2}L176 ${y + aside / 2}`} />
              )}
              {evidence.what === "wave" && (
                <path d={`M84 ${y}q11.5 ${aside * 2} 23 0t23 0t23 0t23 0`} />
              )}
            </g>
          );
        })}
      </svg>
      {undulates ? (
        <figcaption className="small">
          edges in the fill bend to and fro, by up to {number(evidence.amount ?? 0)} px; those
          around it do not; {evidence.count} that show it best
        </figcaption>
      ) : evidence.whole ? (
        <figcaption className="small">
          the fill as a whole {asWhole(evidence)}: {evidence.count} places where something crosses
          its boundary, the clearest first
        </figcaption>
      ) : (
        <figcaption className="small">
          {evidence.count === 1 ? "one line" : `${evidence.count} lines`}, at{" "}
          {some.map((line) => `${Math.round(line.angle)}°`).join(", ")};{" "}
          {evidence.what === "course"
            ? "seen inside only"
            : evidence.faint
              ? "seen on both sides over its length only"
              : `followed from ${evidence.from_both_sides ? "both sides" : "one side"}`}
          {evidence.horizon ? "; level and long enough to be a horizon" : ""}
        </figcaption>
      )}
    </figure>
  );
}

type Lab = { lightness: number; a: number; b: number };

/** A signed CIELAB difference: three bars from the middle, darker or lighter, greener or redder, bluer or yellower. */
export function ToneChart({ difference, deltaE }: { difference: Lab; deltaE: number }) {
  const rows: [string, string, number][] = [
    ["darker", "lighter", difference.lightness],
    ["greener", "redder", difference.a],
    ["bluer", "yellower", difference.b],
  ];
  const top = Math.max(6, ...rows.map(([, , value]) => Math.abs(value)));
  return (
    <figure className="m-0">
      <svg
        width="100%"
        height="58"
        viewBox="0 0 260 58"
        role="img"
        aria-label={rows
          .map(([less, more, value]) => `${value < 0 ? less : more} by ${number(Math.abs(value))}`)
          .join("; ")}
      >
        <path d="M130 2v54" stroke="currentColor" strokeWidth="1" />
        {rows.map(([less, more, value], i) => (
          <g key={less}>
            <rect
              x={value < 0 ? 130 - (Math.abs(value) / top) * 70 : 130}
              y={5 + i * 18}
              width={Math.max(1, (Math.abs(value) / top) * 70)}
              height="11"
              fill="currentColor"
            />
            <text x="2" y={15 + i * 18} fontSize="12" fill="currentColor">
              {less}
            </text>
            <text x="258" y={15 + i * 18} fontSize="12" textAnchor="end" fill="currentColor">
              {more}
            </text>
          </g>
        ))}
      </svg>
      <figcaption className="small">
        against what is around: CIELAB difference {number(deltaE)}
      </figcaption>
    </figure>
  );
}

/** Likeness at the thing's own place against the same at other places. */
export function GhostChart({
  correlation,
  elsewhere,
}: {
  correlation: number;
  elsewhere: number[];
}) {
  const low = Math.min(0, ...elsewhere),
    high = Math.max(correlation, ...elsewhere) || 1;
  const x = scaleLinear([low, high], [6, 254]);
  return (
    <figure className="m-0">
      <svg
        width="100%"
        height="30"
        viewBox="0 0 260 30"
        role="img"
        aria-label={`likeness ${number(correlation)} at the thing's place; up to ${number(Math.max(...elsewhere, 0))} at ${elsewhere.length} others`}
      >
        {elsewhere.map((value, i) => (
          <path
            key={i}
            d={`M${x(value)} 12v14`}
            stroke="currentColor"
            strokeWidth="1"
            opacity="0.5"
          />
        ))}
        <path d={`M${x(correlation)} 2v26`} stroke="currentColor" strokeWidth="3" />
      </svg>
      <figcaption className="small">
        the thing's detail in the fill: thick at its own place, thin at control placements
      </figcaption>
    </figure>
  );
}

/** What sets a place apart from all that is around it, or a fill from what it adjoins. */
export function ForeignList({
  odd,
  from,
}: {
  odd: { what: string; spreads: number }[];
  from: string;
}) {
  return (
    <p className="m-0 small">
      {from} in{" "}
      {odd
        .slice(0, 3)
        .map(
          (one) =>
            `${one.what} (${one.spreads > 0 ? "+" : "−"}${number(Math.abs(one.spreads))} spreads)`,
        )
        .join(", ")}
    </p>
  );
}

type Evidence = {
  difference?: Lab & { red: number; green: number; blue: number };
  delta_e?: number;
  correlation?: number;
  elsewhere?: number[];
  odd?: { what: string; spreads: number }[];
  stands_off?: { difference: Lab; delta_e: number; surroundings_px: number };
  what?: string;
  times_natural?: number;
  pixels?: number;
  darker?: number;
  fill_is_lit?: number;
  type: string;
  share?: number;
  outside?: number;
  along?: Along;
  profile?: Profile;
  offset_px?: number[];
  mirrored?: boolean;
  turned_degrees?: number;
  scale?: number;
  patches?: number;
  source_inside_region?: boolean;
};

/** A finding's evidence as plots. */
export function EvidencePlots({ finding }: { finding: Pick<Finding, "measure" | "evidence"> }) {
  const evidence = finding.evidence as unknown as Evidence;
  return (
    <div className="flex flex-col gap-1">
      <NaturalGauge measure={finding.measure} />
      {evidence.type === "copy" && evidence.offset_px && (
        <p className="m-0 small">
          {evidence.mirrored ? "mirrored; " : ""}
          {evidence.turned_degrees !== undefined
            ? `turned by ${number(Math.abs(evidence.turned_degrees))}°, ${number(evidence.scale ?? 1, 2)} times its source; `
            : ""}
          source {Math.abs(Math.round(evidence.offset_px[0] ?? 0))} px to the{" "}
          {(evidence.offset_px[0] ?? 0) < 0 ? "left" : "right"},{" "}
          {Math.abs(Math.round(evidence.offset_px[1] ?? 0))} px{" "}
          {(evidence.offset_px[1] ?? 0) < 0 ? "up" : "down"}
          {evidence.source_inside_region ? ", itself inside a fill" : ""}
        </p>
      )}
      {evidence.type === "detail" && <DetailChart detail={finding.evidence as unknown as Detail} />}
      {evidence.type === "tone" && evidence.difference && (
        <ToneChart difference={evidence.difference} deltaE={evidence.delta_e ?? 0} />
      )}
      {evidence.type === "ghost" && evidence.elsewhere && (
        <GhostChart correlation={evidence.correlation ?? 0} elsewhere={evidence.elsewhere} />
      )}
      {evidence.stands_off && (
        <>
          <p className="m-0 small">
            it stands off from all that lies {Math.round(evidence.stands_off.surroundings_px)} px
            about it as nothing else here does
          </p>
          <ToneChart
            difference={evidence.stands_off.difference}
            deltaE={evidence.stands_off.delta_e}
          />
        </>
      )}
      {evidence.type === "foreign" && evidence.odd && (
        <ForeignList odd={evidence.odd} from="unlike all around" />
      )}
      {evidence.type === "departs" && evidence.odd && (
        <>
          <ForeignList odd={evidence.odd} from="does not continue what it adjoins" />
          <DetailChart detail={finding.evidence as unknown as Detail} />
        </>
      )}
      {evidence.type === "kept" && (
        <p className="m-0 small">
          {evidence.what}: {evidence.pixels} pixels here are still the original's, and look like the
          thing
        </p>
      )}
      {evidence.type === "shadow" && (
        <p className="m-0 small">
          a hint: {Math.round((evidence.darker ?? 0) * 100)} % less light than beyond it, alike in
          all colours, in the original as here
        </p>
      )}
      {evidence.type === "outside" && evidence.difference && (
        <p className="m-0 small">
          red {number(evidence.difference.red)}, green {number(evidence.difference.green)}, blue{" "}
          {number(evidence.difference.blue)} levels against the original
        </p>
      )}
      {evidence.type === "line" && (
        <LineChart evidence={finding.evidence as unknown as LineEvidence} />
      )}
      {evidence.type === "unchanged" && (
        <p className="m-0 small">
          {((evidence.share ?? 0) * 100).toLocaleString(undefined, { maximumFractionDigits: 1 })} %
          of its pixels differ from the original.
        </p>
      )}
      {evidence.profile && <ProfileChart profile={evidence.profile} />}
      {evidence.along && <AlongChart along={evidence.along} />}
    </div>
  );
}
