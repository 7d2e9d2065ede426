import { useEffect, useState } from "react";
import { csrfToken } from "../api/client";
import type { Footage } from "../api/shots";
import { single } from "./single";

/** One that is only stepped over is not asked for, milliseconds. */
const STAYS = 300;

/** One frame at full size while it is looked at larger than it is played: null until it is there, `coming` until then. */
export function useSingle(
  footage: Footage,
  frame: number | null,
  scale: number,
): { single: ImageBitmap | null; coming: boolean } {
  const { played, ready } = footage;
  const wanted = frame !== null && ready && played < 1 && scale > played * 1.01;
  const of = wanted ? `${footage.id} ${frame}` : "";
  const [had, setHad] = useState<{ of: string; bitmap: ImageBitmap | null } | null>(null);
  useEffect(() => {
    if (!of || frame === null) return undefined;
    const stop = new AbortController();
    const timer = setTimeout(() => {
      single(footage.id, frame, csrfToken(), stop.signal).then(
        (bitmap) => {
          if (stop.signal.aborted) bitmap.close();
          else setHad({ of, bitmap });
        },
        // What is played stays.
        () => {
          if (!stop.signal.aborted) setHad({ of, bitmap: null });
        },
      );
    }, STAYS);
    return () => {
      clearTimeout(timer);
      stop.abort();
      setHad((old) => {
        old?.bitmap?.close();
        return null;
      });
    };
  }, [of, footage.id, frame]);
  const there = had !== null && had.of === of;
  return { single: there ? had.bitmap : null, coming: of !== "" && !there };
}
