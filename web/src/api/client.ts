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
export type Answer = Shapes["AnswerAskedRequest"]["answer"];
export type ImageOf = Shapes["ImageOf"];

/** What a failed request says; `status` 0 means the server was not reached. */
export class ApiError extends Error {
  constructor(readonly status: number, message: string) {
    super(message);
  }
}

/** Told when a request finds the sign-in expired; the page stays as it is and asks for the password over it. */
let expired: () => void = () => undefined;
export function onExpired(call: () => void): void {
  expired = call;
}

function cookie(name: string): string {
  return document.cookie.split("; ").find((part) => part.startsWith(`${name}=`))?.slice(name.length + 1) ?? "";
}

const csrf: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", cookie("zweiblick_csrf"));
    return request;
  },
};

export const api = createClient<paths>({ baseUrl: window.location.origin, credentials: "same-origin" });
api.use(csrf);

type Outcome<T> = { data?: T; error?: unknown; response: Response };

/** The data of a call, or one clear error. */
export async function data<T>(call: Promise<Outcome<T>>): Promise<T> {
  let outcome: Outcome<T>;
  try {
    outcome = await call;
  } catch {
    throw new ApiError(0, "The server cannot be reached. Nothing was stored; try again.");
  }
  if (outcome.response.ok) return outcome.data as T;
  const said = (outcome.error as { error?: string } | undefined)?.error;
  if (outcome.response.status === 401 && !outcome.response.url.endsWith("/api/session/")) expired();
  throw new ApiError(outcome.response.status, said ?? `The server answered ${outcome.response.status}. Nothing was stored.`);
}
