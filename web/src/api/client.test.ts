import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { ApiError, data, patient, unexplained } from "./client";

const said = (status: number, wait?: string) =>
  new Response("{}", { status, headers: wait ? { "Retry-After": wait } : {} });
const asked = (method = "POST") =>
  new Request("http://localhost/api/", method === "GET" ? {} : { method, body: "{}" });
const fetched = vi.fn<(request: Request) => Promise<Response>>();

beforeEach(() => {
  vi.useFakeTimers();
  fetched.mockReset();
  vi.stubGlobal("fetch", fetched);
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

test("what the server could not store just now is said again, with its body", async () => {
  fetched.mockResolvedValueOnce(said(503, "1")).mockResolvedValueOnce(said(200));
  const answer = patient(asked());
  await vi.runAllTimersAsync();
  expect((await answer).status).toBe(200);
  expect(await fetched.mock.calls[1]?.[0].text()).toBe("{}");
});

test("after some tries it is said", async () => {
  fetched.mockImplementation(() => Promise.resolve(said(503, "1")));
  const answer = patient(asked());
  await vi.runAllTimersAsync();
  expect((await answer).status).toBe(503);
  expect(fetched).toHaveBeenCalledTimes(4);
});

test("a failure that waiting does not mend, and what is only read, are said at once", async () => {
  for (const [request, answer] of [
    [asked(), said(503)],
    [asked(), said(500, "1")],
    [asked("GET"), said(503, "1")],
  ] as const) {
    fetched.mockReset();
    fetched.mockResolvedValue(answer);
    expect(await patient(request)).toBe(answer);
    expect(fetched).toHaveBeenCalledTimes(1);
  }
});

test("where no answer came, nobody says that nothing was stored", async () => {
  const lost = data(Promise.reject(new TypeError("Failed to fetch")));
  await expect(lost).rejects.toEqual(new ApiError(0, unexplained(0)));
  for (const status of [0, 502, 504]) expect(unexplained(status)).not.toContain("Nothing");
  expect(unexplained(500)).toContain("Nothing was stored");
});

test("what the server says of an error is said as it stands", async () => {
  const response = new Response("{}", { status: 409 });
  const refused = data(Promise.resolve({ error: { error: "somebody was first" }, response }));
  await expect(refused).rejects.toEqual(new ApiError(409, "somebody was first"));
});
