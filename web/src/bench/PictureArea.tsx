import type View from "ol/View";
import type { ComponentProps } from "react";
import type { Region } from "../api/client";
import { Stage } from "../stage/Stage";
import type { Drawable } from "../stage/useStage";
import { CompareControls } from "./CompareBar";
import { Reading } from "./Reading";
import { ZoomWords } from "./ZoomButtons";
import { AidWords } from "./AidControls";
import type { Aids } from "./useAids";
import type { Compare } from "./useCompare";
import type { useSpot } from "./useSpot";

type Staged = ComponentProps<typeof Stage>;
type Props = {
  region: Region;
  compare: Compare;
  aids: Aids;
  spot: ReturnType<typeof useSpot>;
  sides: { a: Drawable; b: Drawable };
  link: { view: View | null };
  looking: Pick<Staged, "zoom" | "box" | "at" | "delivery">;
  marks: Staged["marks"];
  ready: Staged["ready"];
  soon: Staged["soon"];
  seen: ComponentProps<typeof ZoomWords>;
  onSettled: Staged["onSettled"];
  onOutline: Staged["onOutline"];
};

const noMarks: never[] = [];
const noImages: never[] = [];
const ignored = () => undefined;
/** Half of the stage in whole and even pixels, so that at 100 % both halves show the picture's own pixels. */
const half = { width: "round(down, 50% - 1px, 2px)" };

/** The picture, alone or with what it is compared with, and what is read at a spot. */
export function PictureArea(props: Props) {
  const { compare, aids, spot, region, looking, link, sides } = props;
  const beside = compare.mode === "beside";
  const shown = compare.alone ? sides.a : sides.b;
  const side = compare[compare.alone ? "a" : "b"];
  return (
    <>
      <div className="relative flex min-h-0" onPointerLeave={() => spot.over(null)}>
        {beside && (
          <div key="a" className="relative" style={half}>
            <SideName words={`A ${compare.a.name}`} />
            <Stage
              {...looking}
              image={sides.a}
              ready={noImages}
              marks={compare.turned ? props.marks : noMarks}
              onSettled={ignored}
              link={link}
              follows
              label={`${compare.a.name} beside it`}
            />
          </div>
        )}
        <div
          key="b"
          className={beside ? "relative border-l" : "relative min-w-0 flex-1"}
          style={
            beside ? { ...half, borderColor: "var(--line)", boxSizing: "content-box" } : undefined
          }
        >
          <SideName
            side={compare.alone ? "A" : "B"}
            words={
              compare.alone
                ? `A ${compare.a.name}`
                : compare.mode === "difference"
                  ? "B−A"
                  : `B ${compare.b.name}`
            }
          />
          <Stage
            {...looking}
            image={shown}
            ready={props.ready}
            soon={props.soon}
            marks={beside && compare.turned ? noMarks : props.marks}
            onSettled={props.onSettled}
            link={link}
            onSpot={spot.over}
            onOutline={props.onOutline}
            wiped={compare.mode === "wipe" ? { image: sides.a, wipe: compare.wipe } : null}
            onWipe={compare.setWipe}
            against={
              compare.mode === "difference"
                ? { image: sides.a, measure: compare.measure, amplified: compare.amplified }
                : null
            }
            label={`${side.attempt === null ? "the original" : side.name} at region ${region.number}, ${region.name}`}
          />
        </div>
      </div>
      <div
        className="flex h-[2.75rem] items-center gap-x-4 overflow-hidden border-t px-1"
        style={{ borderColor: "var(--line)" }}
      >
        <Reading
          reading={spot.reading}
          trouble={spot.trouble}
          pinned={spot.pinned}
          names={[`A ${compare.a.name}`, `B ${compare.b.name}`]}
        />
        <span className="small ml-auto flex shrink-0 items-center gap-4 pr-2">
          <AidWords aids={aids} />
          <CompareControls compare={compare} />
          <ZoomWords {...props.seen} />
        </span>
      </div>
    </>
  );
}

/** Which side is seen, on the picture's corner. */
function SideName({ words, side }: { words: string; side?: "A" | "B" }) {
  return (
    <strong
      className="pointer-events-none absolute right-2 top-1 z-10 whitespace-nowrap px-1"
      style={{ background: "var(--ground)" }}
      data-side={side}
    >
      {words}
    </strong>
  );
}
