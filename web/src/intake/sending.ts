import { ApiError, api, csrfToken, data, type Arrival, type Shapes } from "../api/client";
import { rest } from "../ui/rest";

/** A file goes over in parts of so many bytes; a dropped connection costs one of them. */
export const PART = 4_000_000;
/** A part is tried so often, with longer and longer waits. */
const TRIES = 7;
/** Files beyond this are not hashed in the browser, and so begin anew when the page was closed. */
const MOST_HASHED = 600_000_000;
type Under = Shapes["UploadOf"];

export const waitOf = (tried: number): number => Math.min(15_000, 500 * 2 ** tried);

/** The hash by which a file that broke off is known again; empty where the browser cannot tell. */
export async function hashOf(file: File): Promise<string> {
  // Without a secure connection browsers offer no hashing.
  if (!("subtle" in crypto) || file.size > MOST_HASHED) return "";
  const digest = await crypto.subtle.digest("SHA-256", await file.arrayBuffer());
  return [...new Uint8Array(digest)].map((byte) => byte.toString(16).padStart(2, "0")).join("");
}

const cancelled = (file: File) => new ApiError(-1, `${file.name}: cancelled`);

async function partSent(under: Under, file: File, signal: AbortSignal): Promise<Under | "again"> {
  let answer: Response;
  try {
    answer = await fetch(`/api/uploads/${under.key}/${under.received}/`, {
      method: "PUT",
      body: file.slice(under.received, under.received + PART),
      headers: { "Content-Type": "application/octet-stream", "X-CSRFToken": csrfToken() },
      signal,
    });
  } catch {
    if (signal.aborted) throw cancelled(file);
    return "again";
  }
  if (answer.status >= 500 || answer.status === 408) return "again";
  const body = (await answer.json().catch(() => null)) as (Under & { error?: string }) | null;
  // 409: the server says where the file has come to, for instance because an answer was lost.
  if (body && (answer.ok || answer.status === 409)) return body;
  throw new ApiError(answer.status, body?.error ?? `${file.name}: could not be taken.`);
}

/** Send one picture in parts, going on where it broke off; `signal` cancels it. */
export async function sendInParts(
  job: number,
  file: File,
  name: string,
  progress: (part: number) => void,
  signal: AbortSignal,
): Promise<Arrival> {
  const sent = await send(job, file, name, "picture", progress, signal);
  if (!sent.arrival) throw new ApiError(500, `${file.name}: could not be taken.`);
  return sent.arrival;
}

/** Send footage in the same way. */
export async function sendFootage(
  job: number,
  file: File,
  progress: (part: number) => void,
  signal: AbortSignal,
): Promise<number> {
  const sent = await send(job, file, file.name, "footage", progress, signal);
  if (sent.footage === null) throw new ApiError(500, `${file.name}: could not be taken.`);
  return sent.footage;
}

const taken = (under: Under) => under.arrival !== null || under.footage !== null;

async function send(
  job: number,
  file: File,
  name: string,
  what: "picture" | "footage",
  progress: (part: number) => void,
  signal: AbortSignal,
): Promise<Under> {
  const sha256 = await hashOf(file);
  if (signal.aborted) throw cancelled(file);
  let under = await data(
    api.POST("/api/jobs/{id}/uploads/", {
      params: { path: { id: job } },
      body: { name, size: file.size, sha256, what },
    }),
  );
  let tried = 0;
  while (!taken(under)) {
    progress(under.received / Math.max(1, file.size));
    const now = await partSent(under, file, signal);
    if (now !== "again") {
      tried = now.received > under.received || taken(now) ? 0 : tried + 1;
      under = now;
    } else tried += 1;
    if (tried >= TRIES)
      throw new ApiError(
        0,
        `${file.name}: the connection broke off. What went over is kept; drop the file again to go on.`,
      );
    if (tried > 0) await rest(waitOf(tried), signal);
    if (signal.aborted) {
      void api.DELETE("/api/uploads/{key}/", { params: { path: { key: under.key } } });
      throw cancelled(file);
    }
  }
  progress(1);
  return under;
}
