import { describe, expect, it } from "vitest";
import { chosen, nameIn, readable } from "./dropped";
import { hashOf, waitOf } from "./sending";

const file = (name: string, path = "") => {
  const made = new File(["x"], name);
  Object.defineProperty(made, "webkitRelativePath", { value: path });
  return made;
};

describe("files of a folder", () => {
  it("carry the name of the folder they lie in, once", () => {
    expect(nameIn([], "quay.jpg")).toBe("quay.jpg");
    expect(nameIn(["Fortnimm"], "quay.jpg")).toBe("quay-Fortnimm.jpg");
    expect(nameIn(["fortnimm"], "quay_fortnimm.jpg")).toBe("quay_fortnimm.jpg");
    expect(nameIn(["a", "by hand"], "quay.jpg")).toBe("quay-by-hand.jpg");
  });
  it("say nothing of the folder that was chosen itself", () => {
    const names = chosen([
      file("quay.jpg", "export/quay.jpg"),
      file("quay.jpg", "export/fortnimm/quay.jpg"),
    ]).map((one) => one.name);
    expect(names).toEqual(["quay.jpg", "quay-fortnimm.jpg"]);
  });
  it("are taken where they can be read", () => {
    const some = ["a.jpg", "b.TIF", "notes.txt", ".DS_Store"].map((name) => ({
      file: file(name),
      name,
      inFolder: true,
    }));
    const { taken, others } = readable(some);
    expect(taken.map((one) => one.name)).toEqual(["a.jpg", "b.TIF"]);
    expect(others).toBe(1);
    // A file that somebody named is sent, and refused with its reason.
    const named = some.map((one) => ({ ...one, inFolder: false }));
    expect(readable(named)).toEqual({ taken: named, others: 0 });
  });
});

describe("sending in parts", () => {
  it("waits longer from try to try, and never for very long", () => {
    expect([0, 1, 2].map(waitOf)).toEqual([500, 1000, 2000]);
    expect(waitOf(20)).toBe(15_000);
  });
  it("knows a file by its hash", async () => {
    const one = new File(["abc"], "abc.png");
    one.arrayBuffer = () => Promise.resolve(new TextEncoder().encode("abc").buffer);
    expect(await hashOf(one)).toBe(
      "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad",
    );
  });
});
