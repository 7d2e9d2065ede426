/** Dates and numbers by the browser's locale. */

export function until(deadline: string | null, now = Date.now()): string {
  if (!deadline) return "no deadline";
  const hours = (Date.parse(deadline) - now) / 3_600_000;
  const format = new Intl.RelativeTimeFormat(undefined, { numeric: "always" });
  if (Math.abs(hours) < 1) return `due ${format.format(Math.round(hours * 60), "minute")}`;
  if (Math.abs(hours) < 36) return `due ${format.format(Math.round(hours), "hour")}`;
  return `due ${format.format(Math.round(hours / 24), "day")}`;
}

/** A day as people write it. */
export function day(at: string): string {
  return new Date(`${at}T00:00`).toLocaleDateString(undefined, { dateStyle: "medium" });
}

export function moment(at: string): string {
  return new Date(at).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" });
}

export function seconds(value: number | null): string {
  if (value === null) return "";
  if (value < 90) return `${value.toLocaleString(undefined, { maximumFractionDigits: 1 })} s`;
  return `${Math.round(value / 60).toLocaleString()} min`;
}

/** How long something takes, as one says it: minutes below two hours, hours below two days. */
export function span(value: number): string {
  const [unit, size] =
    value < 7_200 ? ["minute", 60] : value < 172_800 ? ["hour", 3_600] : ["day", 86_400];
  return counted(Math.max(1, Math.round(value / Number(size))), String(unit));
}

/** How long a round usually takes, with what so few rounds leave open. */
export const usualWords = (usual: { seconds: number; low: number; high: number; of: number }) =>
  `usually ${span(usual.seconds)} (${span(usual.low)} to ${span(usual.high)}, ${counted(usual.of, "round")})`;

export function number(value: number, digits = 2): string {
  return value.toLocaleString(undefined, { maximumSignificantDigits: digits });
}

/** A file's size as people say it. */
export function bytes(count: number): string {
  const steps = ["byte", "kilobyte", "megabyte", "gigabyte"];
  const step = Math.min(steps.length - 1, Math.max(0, Math.floor(Math.log10(count || 1) / 3)));
  return new Intl.NumberFormat(undefined, {
    style: "unit",
    unit: steps[step],
    unitDisplay: "short",
    maximumSignificantDigits: 3,
  }).format(count / 1000 ** step);
}

export function counted(count: number, one: string, many = `${one}s`): string {
  return `${count.toLocaleString()} ${count === 1 ? one : many}`;
}
