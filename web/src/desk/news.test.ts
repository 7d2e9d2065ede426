import { expect, test } from "vitest";
import type { News } from "../api/charge";
import { newsWords } from "./news";

const news = (what: string, more: Partial<News> = {}): News => ({
  entry: 1,
  at: "2026-03-02T10:00:00Z",
  person: null,
  what,
  about: "slip 2",
  words: "",
  picture: 4,
  number: 4,
  name: "Market hall",
  ...more,
});

test("what came back says what became of it", () => {
  expect(newsWords(news("slip rechecked", { words: "region 1: fixed" }))).toBe(
    "slip 2 came back: region 1: fixed",
  );
});

test("who said it is named, with their words", () => {
  expect(newsWords(news("slip asked", { person: "Mona Reh", words: "with its shadow?" }))).toBe(
    "a question on slip 2, Mona Reh: with its shadow?",
  );
});

test("what has no words of its own is said as history says it", () => {
  expect(newsWords(news("something new"))).toBe("something new: slip 2");
});
