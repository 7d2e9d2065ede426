import { useEffect, useRef, useState } from "react";
import type { Affine } from "./ground";
import type { Range } from "./clock";
import type { Looked } from "./useSides";

type Props = {
  looked: Looked;
  sides: { a: string; b: string };
  size: { width: number; height: number };
  range: Range;
  frame: number;
  /** The line, in the frame's rows. */
  row: number;
  /** What is beside the region is not needed: columns from and to. */
  columns: readonly [number, number];
  /** What holds the ground still in each frame. */
  heldIn: (frame: number) => Affine;
  /** Names what is sliced, so that it is drawn anew when that changes. */
  of: string;
  onGoTo: (frame: number) => void;
};

/** One line of the picture through time, A beside B: the frames go down. What stands still stands upright; what drifts leans, what flickers is
 * striped, what pops is a line across. */
export function SliceView(props: Props) {
  return (
    <div className="grid h-full min-h-0 grid-cols-2 gap-2 p-2">
      <One {...props} side="a" />
      <One {...props} side="b" />
    </div>
  );
}

function One({
  looked,
  sides,
  side,
  size,
  range,
  frame,
  row,
  columns,
  heldIn,
  of,
  onGoTo,
}: Props & { side: "a" | "b" }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [done, setDone] = useState(0);
  const frames = looked.framesOf(side);
  const { first, last } = range;
  const count = last - first + 1;
  const [from, to] = columns;
  const given = useRef({ looked, heldIn });
  useEffect(() => {
    given.current = { looked, heldIn };
  });
  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext("2d");
    if (!element || !context || !frames) return undefined;
    let gone = false;
    element.width = Math.max(1, to - from);
    element.height = count;
    const go = async () => {
      for (let at = 0; at < count && !gone; at += 1) {
        const number = given.current.looked.numberOf(side, first + at);
        if (number !== null) {
          const bitmap = await frames.get(number);
          if (gone) return;
          const [a, b, c, d, e, f] = given.current.heldIn(first + at);
          context.save();
          context.beginPath();
          context.rect(0, at, element.width, 1);
          context.clip();
          context.setTransform(a, b, c, d, e - from, f + at - row);
          context.drawImage(bitmap, 0, 0, size.width, size.height);
          context.restore();
        }
        if (at % 8 === 7 || at === count - 1) setDone((at + 1) / count);
      }
    };
    go().catch(() => undefined); // what is wrong with the frames is said beside the picture
    return () => {
      gone = true;
    };
  }, [frames, side, first, count, row, from, to, of, size.width, size.height]);
  return (
    <figure className="m-0 flex min-h-0 min-w-0 flex-col">
      <figcaption className="small">
        {sides[side]}, row {Math.round(row)}
        {done < 1 && frames ? `; ${Math.round(done * 100)} % of the frames` : ""}
      </figcaption>
      <div className="relative min-h-0 flex-1">
        <canvas
          ref={canvas}
          className="h-full w-full"
          style={{ imageRendering: "pixelated" }}
          role="img"
          aria-label={`${sides[side]}: row ${Math.round(row)} through time`}
          data-done={done}
          onPointerDown={(event) => {
            const around = event.currentTarget.getBoundingClientRect();
            onGoTo(first + Math.floor(((event.clientY - around.top) / around.height) * count));
          }}
        />
        {frame >= first && frame <= last && (
          <span
            aria-hidden="true"
            className="pointer-events-none absolute left-0 w-full border-t"
            style={{ top: `${((frame - first + 0.5) / count) * 100}%`, borderColor: "var(--ink)" }}
          />
        )}
      </div>
    </figure>
  );
}
