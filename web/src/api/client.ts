import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./schema";

export type Shapes = components["schemas"];
export type Bench = Shapes["Bench"];
export type Cell = Shapes["CellOf"];
export type Region = Shapes["RegionOf"];
export type Attempt = Shapes["AttemptOf"];
export type CellDetail = Shapes["CellDetail"];
export type Finding = Shapes["FindingOf"];
export type Group = Shapes["GroupOf"];
export type Session = Shapes["Session"];
export type DeskPicture = Shapes["DeskPicture"];
export type Ruling = Shapes["RulingAskedRequest"]["ruling"];
export type Answer = NonNullable<Shapes["AnswerAskedRequest"]["answer"]>;
export type OutsideAnswer = Shapes["OutsideAskedRequest"]["answer"];
export type ImageOf = Shapes["ImageOf"];

/** What a failed request says; `status` 0 means the server was not reached. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

/** Told when a request finds the sign-in expired; the page stays as it is and asks for the password over it. */
let expired: () => void = () => undefined;
export function onExpired(call: () => void): void {
  expired = call;
}

function cookie(name: string): string {
  return (
    document.cookie
      .split("; ")
      .find((part) => part.startsWith(`${name}=`))
      ?.slice(name.length + 1) ?? ""
  );
}

export const csrfToken = () => cookie("zweiblick_csrf");

const csrf: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrfToken());
    return request;
  },
};

/** So often it is said again what the server could not store because it was just storing something else. */
const TRIES = 4;

/** As `fetch`. The server answers 503 with a time to wait when two people store something at the same place at once, and has stored nothing of
 * this then: it is said again before anybody has to hear of it. */
export async function patient(request: Request): Promise<Response> {
  let next = request;
  for (let tried = 1; ; tried += 1) {
    const again = next.clone();
    const answer = await fetch(next);
    const wait = Number(answer.headers.get("Retry-After"));
    if (answer.status !== 503 || !wait || request.method === "GET" || tried === TRIES)
      return answer;
    await new Promise((resolve) => setTimeout(resolve, 1000 * wait));
    next = again;
  }
}

export const api = createClient<paths>({
  baseUrl: window.location.origin,
  credentials: "same-origin",
  fetch: patient,
});
api.use(csrf);

/** What is said where the server gave no reason. An answer that was lost on its way says nothing of what was stored. */
export function unexplained(status: number): string {
  if (status === 0)
    return "The server cannot be reached. What was just done may not be kept: look before doing it again.";
  if (status === 502 || status === 504)
    return `The server answered ${status}. What was just done may not be kept: look before doing it again.`;
  return `The server answered ${status}. Nothing was stored.`;
}

type Outcome<T> = { data?: T; error?: unknown; response: Response };

/** The data of a call, or one clear error. */
export async function data<T>(call: Promise<Outcome<T>>): Promise<T> {
  let outcome: Outcome<T>;
  try {
    outcome = await call;
  } catch {
    throw new ApiError(0, unexplained(0));
  }
  if (outcome.response.ok) return outcome.data as T;
  const said = (outcome.error as { error?: string } | undefined)?.error;
  if (outcome.response.status === 401 && !outcome.response.url.endsWith("/api/session/")) expired();
  throw new ApiError(outcome.response.status, said ?? unexplained(outcome.response.status));
}

export type Slip = Shapes["SlipOf"];
export type SlipRegion = Shapes["SlipRegionOf"];
export type Change = Shapes["ChangeOf"];
export type Job = Shapes["JobOf"];
export type Intake = Shapes["Intake"];
export type Arrival = Shapes["ArrivalOf"];
export type MethodKind = Shapes["FactsOf"]["kind"];

/** Send one file with progress; `signal` cancels it. The server keeps nothing of a file that did not arrive whole. */
export function upload<T>(
  path: string,
  file: File,
  fields: Record<string, string>,
  progress: (part: number) => void,
  signal?: AbortSignal,
): Promise<T> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", path);
    request.setRequestHeader("X-CSRFToken", csrfToken());
    request.upload.onprogress = (event) => {
      if (event.lengthComputable) progress(event.loaded / event.total);
    };
    request.onload = () => {
      let body: unknown;
      try {
        body = JSON.parse(request.responseText);
      } catch {
        body = null;
      }
      if (request.status >= 200 && request.status < 300) return resolve(body as T);
      if (request.status === 401) expired();
      reject(
        new ApiError(
          request.status,
          (body as { error?: string } | null)?.error ?? unexplained(request.status),
        ),
      );
    };
    request.onerror = () =>
      reject(
        new ApiError(
          0,
          `${file.name}: the connection broke off. Look whether it arrived before you drop it again.`,
        ),
      );
    request.onabort = () => reject(new ApiError(-1, `${file.name}: cancelled`));
    signal?.addEventListener("abort", () => request.abort());
    const form = new FormData();
    for (const [name, value] of Object.entries(fields)) form.append(name, value);
    form.append("file", file);
    request.send(form);
  });
}
