import { useQuery } from "@tanstack/react-query";
import type View from "ol/View";
import { useCallback, useMemo, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { outlinesQuery, useRegions, versionOf, type Outlines } from "../api/outlines";
import { useAskTiles } from "../api/queries";
import { useZoom, ZoomButtons, ZoomWords } from "../bench/ZoomButtons";
import { usePanning } from "../bench/usePanning";
import { Stage } from "../stage/Stage";
import { Key } from "../ui/Key";
import { Notice } from "../ui/Notice";
import { counted } from "../ui/words";
import { DrawingTools } from "./DrawingTools";
import { cross, drawnArea, proposed, standing } from "./marks";
import { RegionList } from "./RegionList";
import { changed, EMPTY, type Area } from "./state";
import { stale, useDrawing, type Drawer } from "./useDrawing";
import { useDrawingKeys, type At } from "./useDrawingKeys";
import { DESK } from "../ui/places";

/** Where the outlines of a picture's regions are drawn. */
export function OutlinesPage() {
  const picture = Number(useParams().id);
  const outlines = useQuery(outlinesQuery(picture));
  if (outlines.isPending) return <Notice title="Opening the outlines …" busy />;
  if (!outlines.data)
    return (
      <Notice title="The outlines cannot be shown" alert>
        {outlines.error?.message}
        <p>
          <button type="button" className="plain" onClick={() => void outlines.refetch()}>
            try again
          </button>{" "}
          <Link to={DESK}>to the desk</Link>
        </p>
      </Notice>
    );
  return (
    <OutlinesFor
      key={picture}
      outlines={outlines.data}
      refetch={() => outlines.refetch().then((found) => found.data)}
    />
  );
}

type Props = { outlines: Outlines; refetch: () => Promise<Outlines | undefined> };
const none: never[] = [];
/** What the stage looks at where a picture has no region yet. */
const wholeOf = (outlines: Outlines) => [0, 0, outlines.original.width, outlines.original.height];

/** What is looked at lies a little higher, so that the tools do not cover it. */
const roomBelow = ([x = 0, y = 0, width = 0, height = 0]: readonly number[]) => [
  x,
  y,
  width,
  height * 1.25,
];

function OutlinesFor({ outlines, refetch }: Props) {
  const navigate = useNavigate();
  const [search] = useSearchParams();
  const mayDraw = outlines.role === "supervisor";
  const [chosen, setChosen] = useState<number | null>(
    () =>
      (
        outlines.regions.find((one) => String(one.number) === search.get("region")) ??
        outlines.regions[0]
      )?.id ?? null,
  );
  const [seen, setSeen] = useState({ settled: false, zoomed: 1 });
  // The original, or an attempt while a key is held or once it was chosen.
  const images = useMemo(
    () => [outlines.original, ...outlines.attempts.map((one) => one.image)],
    [outlines],
  );
  const [under, setUnder] = useState(0);
  const [swapped, setSwapped] = useState(false);
  const shownAt = swapped ? (under === 0 ? Math.min(1, images.length - 1) : 0) : under;
  const image = images[shownAt] ?? outlines.original;
  useAskTiles(images);

  const zooming = useZoom();
  const [link] = useState<{ view: View | null }>({ view: null });
  const [width, height] = [outlines.original.width, outlines.original.height];
  const within = useCallback(
    (x: number, y: number): At => [
      Math.max(0, Math.min(width - 1, Math.floor(x))),
      Math.max(0, Math.min(height - 1, Math.floor(y))),
    ],
    [width, height],
  );
  const box = (): [number, number, number, number] => {
    const stage = document.querySelector("[data-outlines-stage]")?.getBoundingClientRect();
    const [x = 0, y = 0] = link.view?.getCenter() ?? [];
    const by = link.view?.getResolution() ?? 1;
    const [w, h] = [(stage?.width ?? 0) * by, (stage?.height ?? 0) * by];
    const [left, top] = within(x - w / 2, -y - h / 2);
    const [right, bottom] = within(x + w / 2, -y + h / 2);
    return [left, top, right - left + 1, bottom - top + 1];
  };
  const drawer = useDrawing(outlines.id, { image: image.id, box });
  const { drawing, change } = drawer;
  const regions = useRegions(outlines.id);
  const [name, setName] = useState("");
  const [at, setAt] = useState<At | null>(null);
  usePanning(link, false);

  const begin = (region: number | null, version: number | null, area: Area, words: string) => {
    drawer.setTrouble(null);
    change({ type: "begin", region, version, area, words });
    drawer.choose({ tool: "around", how: "add" });
    setName("");
  };
  const region = outlines.regions.find((one) => one.id === (drawing?.region ?? chosen));
  const edited = drawing ? outlines.regions.find((one) => one.id === drawing.region) : undefined;
  const toggle = () => {
    if (!mayDraw) return drawer.setTrouble("Only a supervisor of this job draws regions.");
    if (drawing) leave();
    else if (region) begin(region.id, region.version, region.area, "as it stands");
    else begin(null, null, EMPTY, "nothing yet");
  };
  const leave = () => {
    change({ type: "leave" });
    drawer.setTrouble(null);
    setAt(null);
  };
  const failed = (error: Error) => {
    if (!stale(error) || !drawing) return drawer.setTrouble(error.message);
    // Said only when theirs is here: what is kept after that is kept over it knowingly.
    void refetch()
      .then((now) => {
        const theirs = now?.regions.find((one) => one.id === drawing.region);
        if (theirs) change({ type: "from", version: theirs.version });
      })
      .finally(() => drawer.setTrouble(error.message));
  };
  const storing = regions.draw.isPending || regions.redraw.isPending;
  const keep = () => {
    if (!drawing || storing || drawer.doing) return;
    const { mask } = drawer.area;
    if (!mask)
      return drawer.setTrouble("Nothing is outlined; draw something, or withdraw the region.");
    const done = (now: Outlines) => {
      leave();
      if (drawing.region === null) setChosen(now.regions.at(-1)?.id ?? null);
    };
    if (drawing.region === null)
      regions.draw.mutate({ name, mask }, { onSuccess: done, onError: failed });
    else
      regions.redraw.mutate(
        { region: drawing.region, mask, version: drawing.version ?? 0 },
        { onSuccess: done, onError: failed },
      );
  };
  useDrawingKeys({
    drawer,
    zooming,
    link,
    within,
    at,
    setAt,
    toggle,
    keep,
    swap: setSwapped,
    nextImage: () => setUnder((now) => (now + 1) % images.length),
    back: () => void navigate(`/pictures/${outlines.id}`),
    desk: () => void navigate(DESK),
  });

  const marks = useMemo(() => {
    if (swapped && !drawing) return none;
    const others = outlines.regions
      .filter((one) => one.id !== drawing?.region)
      .flatMap((one) => standing(one, !drawing && one.id === chosen));
    const elsewhere = outlines.attempts
      .flatMap((attempt) => attempt.proposals.filter((one) => one.known < 0.5))
      .flatMap(proposed);
    const drawn = drawing && drawer.settings.tool !== "bend" ? drawnArea(drawer.area) : none;
    return [...others, ...(mayDraw ? elsewhere : none), ...drawn, ...(at ? [cross(at)] : none)];
  }, [outlines, drawing, drawer.area, drawer.settings.tool, chosen, swapped, at, mayDraw]);

  const looked = roomBelow(region?.area.bbox ?? wholeOf(outlines));
  const onSettled = useCallback(
    (settled: boolean, zoomed: number) => setSeen({ settled, zoomed }),
    [],
  );
  const failedAt = { onError: (error: Error) => drawer.setTrouble(error.message) };
  return (
    <div className="bench">
      <header
        className="col-span-2 flex min-h-[44px] flex-wrap items-center gap-x-4 border-b px-3"
        style={{ borderColor: "var(--line)" }}
      >
        <Link to={`/pictures/${outlines.id}`} className="quiet text-inherit no-underline">
          bench <Key action="outlines" />
        </Link>
        <h1 className="truncate text-[1.0625rem] font-normal">
          {outlines.job}{" "}
          <strong>
            {String(outlines.number).padStart(2, "0")} {outlines.name}
          </strong>
          , outlines
        </h1>
        <label className="ml-auto flex items-center gap-2">
          drawn on
          <select
            className="field"
            value={under}
            onChange={(event) => setUnder(Number(event.target.value))}
          >
            <option value={0}>original</option>
            {outlines.attempts.map((one, i) => (
              <option key={one.id} value={i + 1}>
                attempt {one.number}, {one.method}
              </option>
            ))}
          </select>
        </label>
        <ZoomButtons zoom={zooming} without="delivery" />
      </header>
      <aside
        className="min-h-0 border-r"
        style={{ borderColor: "var(--line)" }}
        aria-label="Regions of the picture"
      >
        <div
          className="scrolls h-full pl-3 pr-2 py-2"
          tabIndex={0}
          role="region"
          aria-label="Outlines"
        >
          <RegionList
            outlines={outlines}
            chosen={chosen}
            drawing={drawing !== null}
            mayDraw={mayDraw}
            busy={Object.values(regions).some((one) => one.isPending)}
            onChoose={(id) => {
              setChosen(id);
              zooming.again();
            }}
            onEdit={(one) => begin(one.id, one.version, one.area, "as it stands")}
            onNew={() => begin(null, null, EMPTY, "nothing yet")}
            onVersion={(one, version) =>
              void versionOf(one.id, version).then(
                (area) => begin(one.id, one.version, area, `outline ${version}`),
                (error: Error) => drawer.setTrouble(error.message),
              )
            }
            onCorrect={(id, given) => regions.correct.mutate({ region: id, ...given }, failedAt)}
            onSplit={(id) => regions.split.mutate(id, failedAt)}
            onMerge={(ids) => regions.merge.mutate(ids, failedAt)}
            onWithdraw={(id) =>
              regions.withdraw.mutate(id, {
                ...failedAt,
                onSuccess: (now) => setChosen(now.regions[0]?.id ?? null),
              })
            }
            onAgain={(id) =>
              regions.again.mutate(id, { ...failedAt, onSuccess: () => setChosen(id) })
            }
            onPropose={(area) =>
              drawing
                ? drawer.perform(
                    { what: "area", how: "add", area: area.mask },
                    "what changed, added",
                  )
                : begin(null, null, area, "what changed")
            }
          />
        </div>
      </aside>
      <main className="relative min-h-0 min-w-0" aria-label="The picture" data-outlines-stage>
        <Stage
          image={image}
          ready={images}
          marks={marks}
          zoom={zooming.zoom === "delivery" ? "region" : zooming.zoom}
          box={looked}
          at={`${region?.id ?? "new"}|${zooming.zoom}|${zooming.looks}`}
          link={link}
          tool={drawer.tool}
          onSettled={onSettled}
          label={`${shownAt === 0 ? "the original" : `attempt ${outlines.attempts[shownAt - 1]?.number}`} with the outlines of its regions`}
        />
        {drawing && <DrawingTools drawer={drawer} />}
      </main>
      <footer
        className="rule-top col-span-2 flex min-h-[3.5rem] min-w-0 flex-wrap items-center gap-x-3 gap-y-1 px-3 py-1"
        data-settled-outlines={seen.settled}
      >
        {drawing ? (
          <DrawingFooter
            drawer={drawer}
            name={name}
            onName={setName}
            title={edited ? `${edited.number} ${edited.name}` : null}
            rulings={edited?.rulings ?? 0}
            storing={storing}
            onKeep={keep}
            onLeave={leave}
          />
        ) : (
          <span>
            {mayDraw
              ? "An outline belongs to the picture: it serves every attempt. Each edit is a new version, and every attempt is examined for it."
              : "Only a supervisor of this job draws regions."}
          </span>
        )}
        {drawer.trouble && (
          <strong role="alert" className="min-w-0">
            {drawer.trouble}
          </strong>
        )}
        <span className="ml-auto">
          <ZoomWords zoom={zooming} zoomed={seen.zoomed} size={undefined} />
        </span>
      </footer>
    </div>
  );
}

type FooterProps = {
  drawer: Drawer;
  name: string;
  onName: (name: string) => void;
  /** The region that is redrawn; null: one that is not there yet. */
  title: string | null;
  rulings: number;
  storing: boolean;
  onKeep: () => void;
  onLeave: () => void;
};

/** What is drawn so far; undoing, keeping and leaving it. */
function DrawingFooter(props: FooterProps) {
  const { drawer, title, rulings } = props;
  const { drawing, step, area } = drawer;
  if (!drawing || !step) return null;
  const dirty = changed(drawing) || title === null;
  return (
    <>
      {title === null ? (
        <label className="flex items-center gap-2">
          a new region, called
          <input
            className="field"
            value={props.name}
            maxLength={120}
            placeholder="barrel, lettering …"
            onChange={(event) => props.onName(event.target.value)}
          />
        </label>
      ) : (
        <strong>{title}</strong>
      )}
      <span role="status" className="tabular-nums" data-steps={drawing.at}>
        {drawer.doing ? "drawing …" : step.words}
        {area.pixels > 0 && `; ${area.pixels.toLocaleString()} px`}
        {area.parts.length > 1 && ` in ${area.parts.length} parts`}
      </span>
      <button
        type="button"
        className="quiet"
        disabled={drawing.at === 0}
        onClick={() => drawer.change({ type: "undo" })}
      >
        undo <Key action="undo" />
      </button>
      <button
        type="button"
        className="quiet"
        disabled={drawing.at === drawing.steps.length - 1}
        onClick={() => drawer.change({ type: "redo" })}
      >
        again <Key action="redo" />
      </button>
      <button
        type="button"
        className="ruling"
        aria-disabled={!dirty || area.mask === null || props.storing || drawer.doing}
        onClick={props.onKeep}
      >
        keep it <Key action="keep" />
      </button>
      <button type="button" className="plain" onClick={props.onLeave}>
        leave it as it was <Key action="edit" />
      </button>
      {rulings > 0 && dirty && (
        <span className="small">
          {counted(rulings, "ruling stands", "rulings stand")} on it; what the change says nothing
          about stays.
        </span>
      )}
    </>
  );
}
