import type { Share } from "../api/tally";

export const percent = (value: number) => `${Math.round(100 * value)} %`;

/** "4 of 9", and that it is little where it is. */
export const shareWords = (share: Share) =>
  share.of === 0 ? "none yet" : `${share.count} of ${share.of}${share.few ? ", few" : ""}`;

/** What the next one may be expected to do, with what is likely. */
export const nextWords = (name: string, backdrop: string, share: Share) =>
  `on ${backdrop}, ${name} held in ${share.count} of ${share.of}: ${share.low.toFixed(2)} to ${share.high.toFixed(2)}`;

export const minutes = (seconds: number | null) =>
  seconds === null
    ? "—"
    : seconds < 90
      ? `${Math.round(seconds)} s`
      : `${Math.round(seconds / 60)} min`;
