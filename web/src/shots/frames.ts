/** Frames of some footage as the browser shows them: segments of JPEG files, decoded ahead of what is shown. */

export type Index = { width: number; height: number; segment: number; ends: number[][] };

/** Decoded frames that are kept: a frame of 1080p takes 8 MB. */
const KEPT = 40;
/** Segments whose bytes are kept. */
const SEGMENTS = 24;

/** The number that a JPEG says it is, in the comment that was written into it with the frame; null if it says none. */
export function numberIn(jpeg: Uint8Array): number | null {
  let at = 2;
  while (at + 4 <= jpeg.length && jpeg[at] === 0xff) {
    const marker = jpeg[at + 1];
    const length = ((jpeg[at + 2] ?? 0) << 8) | (jpeg[at + 3] ?? 0);
    if (marker === 0xfe) {
      const words = new TextDecoder().decode(jpeg.subarray(at + 4, at + 2 + length));
      const said = /^frame (\d+)$/.exec(words);
      return said ? Number(said[1]) : null;
    }
    // The picture itself begins: no comment comes after it.
    if (marker === 0xda) return null;
    at += 2 + length;
  }
  return null;
}

/** Where a frame lies: its segment, and its bytes there. */
export function placeOf(
  index: Index,
  frame: number,
): { segment: number; from: number; to: number } | null {
  const segment = Math.floor(frame / index.segment);
  const ends = index.ends[segment];
  const within = frame - segment * index.segment;
  const to = ends?.[within];
  if (frame < 0 || to === undefined) return null;
  return { segment, from: within === 0 ? 0 : (ends?.[within - 1] ?? 0), to };
}

export class Frames {
  private index: Promise<Index> | null = null;
  private readonly segments = new Map<number, Promise<Uint8Array<ArrayBuffer>>>();
  private readonly decoded = new Map<number, ImageBitmap>();
  private readonly coming = new Map<number, Promise<ImageBitmap>>();

  /** `at`: where the proxies are served. */
  constructor(private readonly at: string) {}

  private async asked(path: string): Promise<Response> {
    const answer = await fetch(`${this.at}${path}`, { credentials: "same-origin" });
    if (!answer.ok) throw new Error(`The frames cannot be read (${answer.status}).`);
    return answer;
  }

  private known(): Promise<Index> {
    this.index ??= this.asked("").then((answer) => answer.json() as Promise<Index>);
    this.index.catch(() => (this.index = null));
    return this.index;
  }

  private bytes(segment: number): Promise<Uint8Array<ArrayBuffer>> {
    const had = this.segments.get(segment);
    if (had) return had;
    const asked = this.asked(`${segment}/`)
      .then((answer) => answer.arrayBuffer())
      .then((buffer) => new Uint8Array(buffer));
    this.segments.set(segment, asked);
    asked.catch(() => this.segments.delete(segment));
    const oldest = this.segments.keys().next().value;
    if (this.segments.size > SEGMENTS && oldest !== undefined) this.segments.delete(oldest);
    return asked;
  }

  /** A frame if it is there now. */
  peek(frame: number): ImageBitmap | undefined {
    const found = this.decoded.get(frame);
    if (found) {
      // The one used last is forgotten last.
      this.decoded.delete(frame);
      this.decoded.set(frame, found);
    }
    return found;
  }

  /** A frame; the promise fails if what came is another frame, or none. */
  get(frame: number): Promise<ImageBitmap> {
    const there = this.peek(frame);
    if (there) return Promise.resolve(there);
    const had = this.coming.get(frame);
    if (had) return had;
    const asked = this.decode(frame).finally(() => this.coming.delete(frame));
    this.coming.set(frame, asked);
    return asked;
  }

  private async decode(frame: number): Promise<ImageBitmap> {
    const place = placeOf(await this.known(), frame);
    if (!place) throw new Error(`There is no frame ${frame}.`);
    const jpeg = (await this.bytes(place.segment)).subarray(place.from, place.to);
    const said = numberIn(jpeg);
    if (said !== frame) throw new Error(`Frame ${frame} was asked for, and ${said} came.`);
    const bitmap = await createImageBitmap(new Blob([jpeg], { type: "image/jpeg" }));
    this.decoded.set(frame, bitmap);
    for (const [old, one] of this.decoded) {
      if (this.decoded.size <= KEPT) break;
      this.decoded.delete(old);
      one.close();
    }
    return bitmap;
  }

  /** Let go of what is kept; it comes again if it is asked for. */
  close(): void {
    for (const one of this.decoded.values()) one.close();
    this.decoded.clear();
    this.segments.clear();
  }
}
