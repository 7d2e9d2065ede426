import { expect, test } from "vitest";
import { numberInPng } from "./single";

const chunk = (name: string, content: string) => {
  const bytes = new Uint8Array(12 + content.length);
  new DataView(bytes.buffer).setUint32(0, content.length);
  [...name, ...content].forEach((one, at) => (bytes[4 + at] = one.charCodeAt(0)));
  return [...bytes];
};
const png = (...chunks: number[][]) =>
  new Uint8Array([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, ...chunks.flat()]);

test("a frame says which it is before the picture itself begins", () => {
  const head = chunk("IHDR", "0123456789abc");
  const words = chunk("tEXt", "Comment\0frame 217");
  expect(numberInPng(png(head, words, chunk("IDAT", "x")))).toBe(217);
  expect(numberInPng(png(head, chunk("IDAT", "x"), words))).toBeNull();
  expect(numberInPng(png(head, chunk("tEXt", "Comment\0by hand"), chunk("IDAT", "x")))).toBeNull();
});
