import { useRef, useState } from "react";
import type { ApiError } from "../api/client";
import { useShotSlips, type Footage, type Shot, type ShotSlip } from "../api/shots";
import { sendFootage } from "../intake/sending";
import { DropArea } from "../ui/DropArea";
import { Trouble } from "../ui/Trouble";
import { counted } from "../ui/words";

/** Why footage cannot answer a slip, seen before it is handed in; "" if it can. */
export function unfit(sent: Footage, given: Footage): string {
  if (given.frames !== sent.frames)
    return `has ${counted(given.frames, "frame")}, what was sent ${sent.frames}`;
  if (given.width !== sent.width || given.height !== sent.height)
    return `is ${given.width} × ${given.height}, what was sent ${sent.width} × ${sent.height}`;
  return "";
}

/** Bringing footage as a slip's answer, and handing it in. */
export function ShotAnswer({ shot, slip }: { shot: Shot; slip: ShotSlip }) {
  const { answer, forget, anew } = useShotSlips(shot.id);
  const [part, setPart] = useState<number | null>(null);
  const [trouble, setTrouble] = useState<ApiError | null>(null);
  const stop = useRef<AbortController | null>(null);
  const picker = useRef<HTMLInputElement>(null);
  const sent = shot.attempts.find((one) => one.number === slip.attempt)?.footage ?? shot.original;
  const give = async (file: File | undefined) => {
    if (!file || part !== null) return;
    setTrouble(null);
    setPart(0);
    stop.current = new AbortController();
    try {
      await sendFootage(shot.job, file, setPart, stop.current.signal);
      anew();
    } catch (error) {
      setTrouble(error as ApiError);
    }
    setPart(null);
  };
  return (
    <DropArea
      label={`Answer to slip ${slip.round}`}
      className="my-1 p-2"
      onFiles={(files) => void give(files[0])}
    >
      <input
        ref={picker}
        type="file"
        className="sr-only"
        aria-label={`footage that answers slip ${slip.round}`}
        onChange={(event) => {
          void give(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
      <button
        type="button"
        className="plain"
        aria-disabled={part !== null}
        onClick={() => picker.current?.click()}
      >
        choose the result
      </button>{" "}
      or drop it here: all {sent.frames} frames.
      {part !== null && (
        <span className="ml-2">
          <progress max={1} value={part} className="mr-2 h-[6px] w-[90px]" />
          <button type="button" className="quiet" onClick={() => stop.current?.abort()}>
            cancel
          </button>
        </span>
      )}
      <ul className="m-0 list-none p-0" aria-label="Footage that waits">
        {shot.waiting.map((one) => (
          <Given
            key={one.id}
            one={one}
            why={one.state === "ready" ? unfit(sent, one) : ""}
            busy={answer.isPending || forget.isPending}
            onHandIn={() => answer.mutate({ slip: slip.id, footage: one.id })}
            onForget={() => forget.mutate(one.id)}
          />
        ))}
      </ul>
      <Trouble error={trouble ?? answer.error ?? forget.error} />
    </DropArea>
  );
}

function Given({
  one,
  why,
  busy,
  onHandIn,
  onForget,
}: {
  one: Footage;
  why: string;
  busy: boolean;
  onHandIn: () => void;
  onForget: () => void;
}) {
  return (
    <li className="flex flex-wrap items-center gap-2">
      <span>{one.name}</span>
      {one.state === "reading" && <span role="status">is being read …</span>}
      {(one.state === "refused" || why) && (
        <strong role="alert">{one.state === "refused" ? one.reason : why}</strong>
      )}
      {one.state === "ready" && !why && (
        <button type="button" className="plain" aria-disabled={busy} onClick={onHandIn}>
          hand it in
        </button>
      )}
      {one.state !== "reading" && (
        <button type="button" className="quiet" aria-disabled={busy} onClick={onForget}>
          forget it
        </button>
      )}
    </li>
  );
}
