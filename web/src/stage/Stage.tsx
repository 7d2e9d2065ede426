import { useEffect, useRef } from "react";
import { lineOf, type Wipe } from "./compare";
import { useStage, type Shown } from "./useStage";

type Props = Shown & {
  /** Says in words what is seen, for those who do not see it. */
  label: string;
  onSettled: (settled: boolean, zoomed: number, image: number) => void;
  onWipe?: (wipe: Wipe) => void;
};

/** The line between A and B, with a grip to take it by. */
function WipeLine({ wipe, onWipe }: { wipe: Wipe; onWipe: (wipe: Wipe) => void }) {
  const { at, along } = lineOf(wipe, 100, 100);
  const frame = useRef<SVGSVGElement>(null);
  const turn = (wipe.angle * Math.PI) / 180;
  const moved = (event: React.PointerEvent) => {
    const box = frame.current?.getBoundingClientRect();
    if (!box || !event.currentTarget.hasPointerCapture(event.pointerId)) return;
    const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
    const off =
      (event.clientX - box.left - box.width / 2) * cos +
      (event.clientY - box.top - box.height / 2) * sin;
    onWipe({
      ...wipe,
      position: Math.max(
        0,
        Math.min(1, 0.5 + off / (Math.abs(cos) * box.width + Math.abs(sin) * box.height)),
      ),
    });
  };
  return (
    <svg
      ref={frame}
      className="pointer-events-none absolute inset-0 h-full w-full"
      aria-hidden="true"
      data-wipe={`${wipe.position.toFixed(2)} ${wipe.angle}`}
    >
      <WipePath wipe={wipe} frame={frame} />
      <circle
        cx={`${at[0]}%`}
        cy={`${at[1]}%`}
        r="9"
        fill="#fff"
        stroke="#000"
        strokeWidth="1.5"
        className="pointer-events-auto cursor-move"
        data-along={along.join(" ")}
        onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
        onPointerMove={moved}
      />
    </svg>
  );
}

/** Drawn in the stage's own pixels: per cent would shear the angle. */
function WipePath({ wipe, frame }: { wipe: Wipe; frame: React.RefObject<SVGSVGElement | null> }) {
  const line = useRef<SVGPathElement>(null);
  useEffect(() => {
    const place = () => {
      const svg = frame.current;
      if (!svg || !line.current) return;
      const { at, along } = lineOf(wipe, svg.clientWidth, svg.clientHeight);
      const far = svg.clientWidth + svg.clientHeight;
      line.current.setAttribute(
        "d",
        `M${at[0] - along[0] * far} ${at[1] - along[1] * far}L${at[0] + along[0] * far} ${at[1] + along[1] * far}`,
      );
      const grip = svg.querySelector("circle");
      grip?.setAttribute("cx", String(at[0]));
      grip?.setAttribute("cy", String(at[1]));
    };
    place();
    const watch = new ResizeObserver(place);
    if (frame.current) watch.observe(frame.current);
    return () => watch.disconnect();
  }, [wipe, frame]);
  return <path ref={line} stroke="#000" strokeWidth="1.5" style={{ paintOrder: "stroke" }} />;
}

/** The picture. */
export function Stage({ label, onSettled, onWipe, ...shown }: Props) {
  const target = useRef<HTMLDivElement>(null);
  const { settled, trouble, zoomed } = useStage(target, shown);
  const { id } = shown.image;
  useEffect(() => onSettled(settled, zoomed, id), [settled, zoomed, id, onSettled]);
  return (
    <div className="relative h-full w-full">
      <div
        ref={target}
        role="img"
        aria-label={label}
        data-settled={settled}
        data-image={shown.image.id}
        data-zoom={zoomed.toFixed(3)}
        className="h-full w-full"
      />
      {shown.wiped && onWipe && <WipeLine wipe={shown.wiped.wipe} onWipe={onWipe} />}
      {!shown.image.ready && (
        <p
          role="status"
          className="absolute left-1/2 top-1/2 m-0 -translate-x-1/2 px-3 py-1"
          style={{ background: "var(--lift)" }}
        >
          The picture is being made ready …
        </p>
      )}
      {trouble && (
        <p
          role="alert"
          className="absolute bottom-2 left-2 m-0 px-3 py-1"
          style={{ background: "var(--lift)", border: "1px solid var(--ink)" }}
        >
          {trouble}
        </p>
      )}
    </div>
  );
}
