import { useQuery, useQueryClient } from "@tanstack/react-query";
import type View from "ol/View";
import { useCallback, useState } from "react";
import type { ImageOf, Region, Shapes } from "../api/client";
import { pairQuery, useChoose } from "../api/queries";
import { useKeys } from "../keys";
import type { Zoom } from "../stage/view";
import { Key } from "../ui/Key";
import { Notice } from "../ui/Notice";
import { counted } from "../ui/words";
import { AidedStage } from "./AidedStage";

type Props = {
  region: Region;
  zoom: Zoom;
  looks: number;
  delivery: number;
  aid: Shapes["AidOf"] | null;
  onZoomed: (zoomed: number) => void;
};

/** Two attempts without their names, on sides drawn by lot: which holds better? */
export function BlindPairs({ region, zoom, looks, delivery, aid, onZoomed }: Props) {
  const client = useQueryClient();
  const pair = useQuery(pairQuery(region.id));
  const { choose, takeBack } = useChoose(region.id);
  const [stands, setStands] = useState<Record<number, boolean>>({});
  const [trouble, setTrouble] = useState<string | null>(null);
  const [left, right] = [pair.data?.left ?? null, pair.data?.right ?? null];
  const ready =
    left !== null &&
    right !== null &&
    Boolean(stands[left.id]) &&
    Boolean(stands[right.id]) &&
    !choose.isPending;
  const onSettled = useCallback(
    (image: number, _cell: number | null, settled: boolean, zoomed: number) => {
      setStands((old) => (old[image] === settled ? old : { ...old, [image]: settled }));
      onZoomed(zoomed);
    },
    [onZoomed],
  );
  const say = (better: Shapes["PairAskedRequest"]["better"]) => () => {
    if (!ready || !left || !right) return;
    setTrouble(null);
    choose.mutate(
      { left: left.id, right: right.id, better },
      { onError: (error) => setTrouble(error.message) },
    );
  };
  const undo = () =>
    takeBack.mutate(undefined, {
      onError: (error) => setTrouble(error.message),
      onSuccess: () => void client.invalidateQueries({ queryKey: ["spread"] }),
    });
  useKeys({
    leftBetter: say("left"),
    rightBetter: say("right"),
    noDifference: say("no difference"),
    takeBack: undo,
  });
  if (pair.isError)
    return (
      <Notice title="No pair can be shown" alert>
        {pair.error.message}
      </Notice>
    );
  if (!pair.data) return <Notice title="Drawing lots …" busy />;
  if (!left || !right)
    return <Notice title="A pair needs two attempts">This region has only one.</Notice>;
  return (
    <main className="grid min-h-0 grid-rows-[1fr_50px]" aria-label="A blind pair">
      <Pair
        key={`${left.id}|${right.id}`}
        left={left}
        right={right}
        region={region}
        zoom={zoom}
        looks={looks}
        delivery={delivery}
        aid={aid}
        onSettled={onSettled}
      />
      <div className="flex items-center gap-3 px-3" role="group" aria-label="Which holds better?">
        <span className="flex-1">
          {trouble ? (
            <strong role="alert">{trouble}</strong>
          ) : (
            `Which holds better? ${counted(pair.data.mine, "pair")} chosen by you.`
          )}
        </span>
        {pair.data.mine > 0 && (
          <button type="button" className="plain" onClick={undo}>
            take back <Key action="takeBack" />
          </button>
        )}
        <button type="button" className="plain" aria-disabled={!ready} onClick={say("left")}>
          left <Key action="leftBetter" />
        </button>
        <button
          type="button"
          className="plain"
          aria-disabled={!ready}
          onClick={say("no difference")}
        >
          no difference <Key action="noDifference" />
        </button>
        <button type="button" className="plain" aria-disabled={!ready} onClick={say("right")}>
          right <Key action="rightBetter" />
        </button>
      </div>
    </main>
  );
}

type PairProps = {
  left: ImageOf;
  right: ImageOf;
  region: Region;
  zoom: Zoom;
  looks: number;
  delivery: number;
  aid: Shapes["AidOf"] | null;
  onSettled: (image: number, cell: number | null, settled: boolean, zoomed: number) => void;
};

/** Two stages in step. A new pair gets stages of its own: what was drawn before must not be seen beside the wrong one. */
function Pair({ left, right, region, zoom, looks, delivery, aid, onSettled }: PairProps) {
  const [link] = useState<{ view: View | null }>({ view: null });
  const shared = {
    cell: null,
    aid,
    zoom,
    box: region.bbox,
    at: `${region.id}|${zoom}|${looks}|${delivery}`,
    delivery,
    link,
    onSettled,
  };
  return (
    <div className="grid min-h-0 grid-cols-2 gap-[3px] p-[3px]">
      <AidedStage image={left} follows={false} label="left" {...shared} />
      <AidedStage image={right} follows label="right" {...shared} />
    </div>
  );
}
