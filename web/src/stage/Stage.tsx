import { useEffect, useRef } from "react";
import { useStage, type Shown } from "./useStage";

type Props = Shown & {
  /** Says in words what is seen, for those who do not see it. */
  label: string;
  onSettled: (settled: boolean, zoomed: number) => void;
};

/** The picture. */
export function Stage({ label, onSettled, ...shown }: Props) {
  const target = useRef<HTMLDivElement>(null);
  const { settled, trouble, zoomed } = useStage(target, shown);
  useEffect(() => onSettled(settled, zoomed), [settled, zoomed, onSettled]);
  return (
    <div className="relative h-full w-full">
      <div ref={target} role="img" aria-label={label} data-settled={settled} data-image={shown.image.id} data-zoom={zoomed.toFixed(3)} className="h-full w-full" />
      {!shown.image.ready && <p role="status" className="absolute left-1/2 top-1/2 m-0 -translate-x-1/2 px-3 py-1" style={{ background: "var(--lift)" }}>The picture is being made ready …</p>}
      {trouble && <p role="alert" className="absolute bottom-2 left-2 m-0 px-3 py-1" style={{ background: "var(--lift)", border: "1px solid var(--ink)" }}>{trouble}</p>}
    </div>
  );
}
