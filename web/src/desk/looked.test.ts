import { expect, test } from "vitest";
import { EVERYTHING } from "../api/queries";
import { addressOf, lookedOf, looksForAll } from "./looked";

test("what is looked for stands in the address and comes back from it", () => {
  const looked = {
    q: "quay 4",
    job: 3,
    need: "undecided",
    kind: "seam",
    severity: "clear",
    method: "Fortnimm",
    due: "week",
    charge: "mine",
    sort: "worst",
  } as const;
  expect(lookedOf(new URLSearchParams(addressOf(looked)))).toEqual(looked);
});

test("looking for everything leaves the address bare", () => {
  expect(addressOf(EVERYTHING)).toEqual({});
  expect(looksForAll(lookedOf(new URLSearchParams()))).toBe(true);
});

test("what an address says that is none is left out", () => {
  const looked = lookedOf(
    new URLSearchParams("job=x&need=magic&sort=size&q=boat&severity=huge&due=soon&charge=us"),
  );
  expect(looked).toEqual({ ...EVERYTHING, q: "boat" });
});
