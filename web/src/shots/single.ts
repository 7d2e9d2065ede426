/** Single frames at full size, for what is larger than what is played. */

import { rest } from "../ui/rest";

/** A frame that is being drawn is asked for again after so many milliseconds, so often. */
const AGAIN = 400;
const TRIES = 150;

/** The number that a PNG says it is, in the comment that was written into it with the frame; null if it says none. */
export function numberInPng(png: Uint8Array): number | null {
  const view = new DataView(png.buffer, png.byteOffset, png.byteLength);
  // Eight bytes say that it is a PNG; then chunks: length, name, content, checksum.
  for (let at = 8; at + 12 <= png.length;) {
    const length = view.getUint32(at);
    const name = new TextDecoder("latin1").decode(png.subarray(at + 4, at + 8));
    if (name === "tEXt") {
      const words = new TextDecoder("latin1").decode(png.subarray(at + 8, at + 8 + length));
      const said = /^Comment\0frame (\d+)$/.exec(words);
      if (said) return Number(said[1]);
    }
    // The picture itself begins: the comment comes before it.
    if (name === "IDAT") return null;
    at += 12 + length;
  }
  return null;
}

/** A frame at full size; drawn by a worker first. Fails if it cannot be had, or another frame comes. */
export async function single(
  footage: number,
  frame: number,
  token: string,
  signal: AbortSignal,
): Promise<ImageBitmap> {
  const at = `/api/footage/${footage}/frames/${frame}/`;
  const ask = () => fetch(at, { credentials: "same-origin", signal });
  let answer = await ask();
  if (answer.status === 503) {
    await fetch(at, { method: "POST", headers: { "X-CSRFToken": token }, signal });
    for (let tried = 0; answer.status === 503 && tried < TRIES; tried += 1) {
      await rest(AGAIN, signal);
      answer = await ask();
    }
  }
  if (!answer.ok) throw new Error(`Frame ${frame} cannot be had at full size (${answer.status}).`);
  const bytes = new Uint8Array(await answer.arrayBuffer());
  const said = numberInPng(bytes);
  if (said !== frame) throw new Error(`Frame ${frame} was asked for, and ${said} came.`);
  return createImageBitmap(new Blob([bytes], { type: "image/png" }));
}
