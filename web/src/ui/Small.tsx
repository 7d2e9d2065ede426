import { useEffect, useState } from "react";

/** Milliseconds until a picture that is not ready is asked for again. */
const AGAIN = 3000;

/** A small picture that may still be in the making; it is asked for until it is there. */
export function Small({ src, className }: { src: string; className: string }) {
  const [failed, setFailed] = useState(false);
  useEffect(() => {
    if (!failed) return undefined;
    const timer = setTimeout(() => setFailed(false), AGAIN);
    return () => clearTimeout(timer);
  }, [failed]);
  return failed ? (
    <span
      className={`${className} grid place-items-center border border-dashed text-center small`}
      style={{ borderColor: "var(--line)" }}
    >
      in the making
    </span>
  ) : (
    <img src={src} alt="" className={`${className} object-cover`} onError={() => setFailed(true)} />
  );
}
