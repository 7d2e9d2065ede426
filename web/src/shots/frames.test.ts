import { afterEach, describe, expect, it, vi } from "vitest";
import { Frames, numberIn, placeOf } from "./frames";

/** The beginning of a JPEG with a comment. */
function jpeg(words: string): Uint8Array {
  const text = new TextEncoder().encode(words);
  const length = text.length + 2;
  return new Uint8Array([
    ...[0xff, 0xd8, 0xff, 0xe0, 0, 4, 1, 1],
    ...[0xff, 0xfe, length >> 8, length & 255, ...text],
    ...[0xff, 0xda, 0, 2, 9, 9],
  ]);
}

const INDEX = { width: 4, height: 4, segment: 2, ends: [[10, 30], [12]] };
afterEach(() => vi.unstubAllGlobals());

describe("frames that are played", () => {
  it("reads the number that a frame says it is", () => {
    expect(numberIn(jpeg("frame 17"))).toBe(17);
    expect(numberIn(jpeg("something else"))).toBeNull();
    expect(numberIn(new Uint8Array([0xff, 0xd8, 0xff, 0xda, 0, 2]))).toBeNull();
  });

  it("knows where a frame lies", () => {
    expect(placeOf(INDEX, 0)).toEqual({ segment: 0, from: 0, to: 10 });
    expect(placeOf(INDEX, 1)).toEqual({ segment: 0, from: 10, to: 30 });
    expect(placeOf(INDEX, 2)).toEqual({ segment: 1, from: 0, to: 12 });
    expect(placeOf(INDEX, 3)).toBeNull();
    expect(placeOf(INDEX, -1)).toBeNull();
  });

  it("shows no frame that says it is another", async () => {
    const one = jpeg("frame 0");
    const wrong = jpeg("frame 5");
    const bytes = new Uint8Array([...one, ...wrong]);
    const index = { ...INDEX, ends: [[one.length, bytes.length]] };
    vi.stubGlobal("fetch", (path: string) =>
      Promise.resolve(
        path.endsWith("0/") ? new Response(bytes) : new Response(JSON.stringify(index)),
      ),
    );
    vi.stubGlobal("createImageBitmap", () => Promise.resolve({ close: () => undefined }));
    const frames = new Frames("/x/");
    await frames.get(0);
    expect(frames.peek(0)).toBeDefined();
    await expect(frames.get(1)).rejects.toThrow("Frame 1 was asked for, and 5 came.");
    expect(frames.peek(1)).toBeUndefined();
  });
});
