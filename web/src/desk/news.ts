import type { News } from "../api/charge";

const WORDS: Record<string, (one: News) => string> = {
  "attempt brought in": (one) => `${one.about} came in`,
  "check failed": (one) => `the check of ${one.about} failed`,
  "in charge": (one) => `${one.about} is in charge`,
  "order failed": () => "an order outside failed",
  "remark made": () => "a remark",
  "second look asked for": (one) => `a second look is asked for at ${one.about}`,
  "second look given": (one) => `a second look was given at ${one.about}`,
  "signed off": () => "signed off",
  reopened: () => "opened again",
  "slip asked": (one) => `a question on ${one.about}`,
  "slip declined": (one) => `${one.about} was declined`,
  "slip failed": (one) => `${one.about} could not be worked`,
  "slip rechecked": (one) => `${one.about} came back`,
};

/** A piece of news in words. */
export function newsWords(one: News): string {
  const said = WORDS[one.what]?.(one) ?? `${one.what}: ${one.about}`;
  const by = one.person ? `, ${one.person}` : "";
  return `${said}${by}${one.words ? `: ${one.words}` : ""}`;
}
