import { useQuery } from "@tanstack/react-query";
import type View from "ol/View";
import { useCallback, useEffect, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Shapes } from "../api/client";
import { coldQuery, useLookCold } from "../api/queries";
import { useKeys } from "../keys";
import { Stage } from "../stage/Stage";
import { outlined, ringed } from "../stage/evidence";
import { around } from "../stage/outline";
import { Key } from "../ui/Key";
import { Notice } from "../ui/Notice";
import { counted } from "../ui/words";
import { placeOf, spotOf } from "./frame";
import { RuleHere, type Looking } from "./RuleHere";
import { DESK } from "../ui/places";

const nothing: never[] = [];
const STEP = 24;

/** One result after the other, alone: where does the eye stop? */
export function ColdPage() {
  // Enter marks a place here: it must not follow a link that was used to come here.
  useEffect(() => {
    if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
  }, []);
  const queue = useQuery(coldQuery);
  const [at, setAt] = useState(0);
  // The row is fixed when the page opens: a look changes what is cold, and must not shuffle what is to come.
  const [row, setRow] = useState<number[] | null>(null);
  if (queue.data && row === null) setRow(queue.data.map((one) => one.attempt));
  if (queue.isPending) return <Notice title="Opening …" busy />;
  if (queue.isError)
    return (
      <Notice title="Nothing can be shown" alert>
        {queue.error.message}{" "}
        <p>
          <button type="button" className="plain" onClick={() => void queue.refetch()}>
            try again
          </button>
        </p>
      </Notice>
    );
  const one = queue.data.find((some) => some.attempt === row?.[at]);
  if (!one)
    return (
      <Notice title={at ? "That was the last one" : "Nothing to look at yet"}>
        {at ? `${counted(at, "picture")} looked at.` : "No attempt has been checked."}{" "}
        <p>
          <Link to={DESK}>to the desk</Link>
        </p>
      </Notice>
    );
  return (
    <Look
      key={one.attempt}
      one={one}
      place={at + 1}
      of={queue.data.length}
      onNext={() => setAt(at + 1)}
    />
  );
}

type Props = { one: Shapes["ColdOne"]; place: number; of: number; onNext: () => void };

function Look({ one, place, of, onNext }: Props) {
  const navigate = useNavigate();
  const keep = useLookCold(one.attempt);
  const [link] = useState<{ view: View | null }>({ view: null });
  const [flipped, setFlipped] = useState(false);
  const [clicks, setClicks] = useState<[number, number][]>([]);
  const [cross, setCross] = useState<[number, number] | null>(null);
  const [settled, setSettled] = useState(false);
  const [moves, setMoves] = useState(0);
  const began = useRef(0);
  const box = useRef<HTMLDivElement>(null);
  const found = keep.data ?? null;
  // Alone it is looked at whole; once it is uncovered, as near as one likes.
  const [looking, setLooking] = useState<Looking>({
    zoom: "whole",
    box: [0, 0, one.image.width, one.image.height],
    at: String(one.attempt),
  });
  const onSettled = useCallback((now: boolean) => {
    setSettled(now);
    setMoves((count) => count + 1);
    if (now && !began.current) began.current = performance.now();
  }, []);

  const stageNow = (): [number, number] => [
    box.current?.clientWidth ?? 1,
    box.current?.clientHeight ?? 1,
  ];
  const look = (): [number[], number] => [
    link.view?.getCenter() ?? [0, 0],
    link.view?.getResolution() ?? 1,
  ];
  const add = (at: [number, number]) => {
    if (found || !settled) return;
    const [center, resolution] = look();
    const [x, y] = spotOf(at, stageNow(), center, resolution, flipped);
    if (x < 0 || y < 0 || x > one.image.width || y > one.image.height) return;
    setClicks((old) => [...old, [Math.round(x), Math.round(y)]]);
  };
  const uncover = () => {
    if (found) return onNext();
    if (!settled || keep.isPending) return undefined;
    return keep.mutate({ clicks, flipped, seconds: (performance.now() - began.current) / 1000 });
  };
  useKeys({
    next: uncover,
    turn: () => {
      if (!found) {
        setFlipped(!flipped);
      }
    },
    desk: () => void navigate(DESK),
    // Once it is uncovered the key takes rulings back.
    ...(found ? {} : { takeBack: () => setClicks((old) => old.slice(0, -1)) }),
  });
  useEffect(() => {
    const pressed = (event: KeyboardEvent) => {
      if (
        found ||
        event.ctrlKey ||
        event.altKey ||
        event.metaKey ||
        document.querySelector("[role=dialog]")
      )
        return;
      const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[
        event.key
      ];
      const [width, height] = stageNow();
      if (way) {
        event.preventDefault();
        const step = event.shiftKey ? 2 : STEP;
        setCross((old) => [
          Math.max(0, Math.min(width, (old?.[0] ?? width / 2) + (way[0] ?? 0) * step)),
          Math.max(0, Math.min(height, (old?.[1] ?? height / 2) + (way[1] ?? 0) * step)),
        ]);
      }
      if (event.key === "Enter" && cross && !(event.target instanceof HTMLButtonElement))
        add(cross);
    };
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  });

  const marks = found
    ? [
        ...found.regions.map((region) => outlined(region as never)),
        ...found.clicks.map((click) =>
          ringed(around([click.x, click.y], Math.max(8, one.image.width / 150))),
        ),
      ]
    : nothing;
  const [center, resolution] = look();
  return (
    <div className="grid h-full grid-rows-[44px_1fr_auto]">
      <header
        className="flex items-center gap-4 border-b px-3"
        style={{ borderColor: "var(--line)" }}
      >
        <Link to={DESK} className="plain text-inherit no-underline">
          desk <Key action="desk" />
        </Link>
        <h1 className="text-[1rem] font-normal">
          {found ? (
            <>
              <strong>
                {String(found.number).padStart(2, "0")} {found.name}
              </strong>
              , attempt {found.attempt}
            </>
          ) : (
            <strong>Where does the eye stop?</strong>
          )}
        </h1>
        <span className="ml-auto">
          {place} of {of}
        </span>
        <span data-cold={found ? found.cold : one.cold}>
          {(found ? found.cold : one.cold)
            ? "a cold look"
            : "not cold: you have seen this picture before; it is kept and does not count"}
        </span>
        {!found && (
          <button
            type="button"
            className="plain"
            aria-pressed={flipped}
            onClick={() => setFlipped(!flipped)}
          >
            mirrored <Key action="turn" />
          </button>
        )}
      </header>
      <main ref={box} className="relative min-h-0 overflow-hidden" aria-label="The picture">
        <div
          className="h-full w-full"
          style={flipped && !found ? { transform: "scaleX(-1)" } : undefined}
        >
          <Stage
            image={one.image}
            ready={nothing}
            marks={marks}
            zoom={looking.zoom}
            box={looking.box}
            at={looking.at}
            link={link}
            onSettled={onSettled}
            label={found ? `attempt ${found.attempt} of ${found.name}` : "a picture, alone"}
          />
        </div>
        {!found && (
          <div
            className="absolute inset-0 cursor-crosshair"
            data-clicks={clicks.length}
            onPointerDown={(event) => {
              const corner = event.currentTarget.getBoundingClientRect();
              add([event.clientX - corner.left, event.clientY - corner.top]);
            }}
          >
            <svg
              className="pointer-events-none h-full w-full"
              aria-hidden="true"
              data-moves={moves}
            >
              {clicks.map((click, i) => {
                const [x, y] = placeOf(click, stageNow(), center, resolution, flipped);
                return (
                  <g key={i} fill="none">
                    <circle cx={x} cy={y} r="9" stroke="#000" strokeWidth="3.5" />
                    <circle cx={x} cy={y} r="9" stroke="#fff" strokeWidth="1.5" />
                  </g>
                );
              })}
              {cross && (
                <g fill="none">
                  <path
                    d={`M${cross[0] - 12} ${cross[1]}h24M${cross[0]} ${cross[1] - 12}v24`}
                    stroke="#000"
                    strokeWidth="3.5"
                  />
                  <path
                    d={`M${cross[0] - 12} ${cross[1]}h24M${cross[0]} ${cross[1] - 12}v24`}
                    stroke="#fff"
                    strokeWidth="1.5"
                  />
                </g>
              )}
            </svg>
          </div>
        )}
      </main>
      <footer>
        {found && <RuleHere found={found} settled={settled} onLook={setLooking} />}
        <div className="rule-top flex min-h-[50px] items-center gap-3 px-3 py-1">
          {keep.isError ? (
            <strong role="alert" className="flex-1">
              {keep.error.message}
            </strong>
          ) : found ? (
            <Outcome found={found} />
          ) : (
            <span className="flex-1">
              Click where something stops you, or walk there with the arrow keys and press Enter.{" "}
              {clicks.length ? counted(clicks.length, "place") : "Nothing"} so far.
              {clicks.length > 0 && (
                <>
                  {" "}
                  <button
                    type="button"
                    className="plain"
                    onClick={() => setClicks((old) => old.slice(0, -1))}
                  >
                    take back <Key action="takeBack" />
                  </button>
                </>
              )}
            </span>
          )}
          {found && (
            <Link
              className="plain whitespace-nowrap text-inherit no-underline"
              to={`/pictures/${found.picture}`}
            >
              to its bench
            </Link>
          )}
          <button
            type="button"
            className="plain whitespace-nowrap"
            aria-disabled={!found && (!settled || keep.isPending)}
            onClick={uncover}
          >
            {found ? "next picture" : clicks.length ? "uncover" : "nothing: uncover"}{" "}
            <Key action="next" />
          </button>
        </div>
      </footer>
    </div>
  );
}

/** What the eye met, what it passed over, and what other cold looks say. */
function Outcome({ found }: { found: Shapes["Uncovered"] }) {
  const astray = found.clicks.filter((click) => click.regions.length === 0).length;
  return (
    <ul className="m-0 flex flex-1 list-none flex-wrap gap-x-6 p-0" aria-label="What came of it">
      {found.regions.map((region) => (
        <li key={region.region}>
          <strong>
            {region.number} {region.name}
          </strong>
          : {region.noticed ? "noticed" : "passed over"}; noticed in {region.times} of{" "}
          {counted(region.looks, "cold look")}
          {region.noticed && kindsAt(found, region.number)}
        </li>
      ))}
      {astray > 0 && <li>{counted(astray, "place")} where nothing was done</li>}
    </ul>
  );
}

function kindsAt(found: Shapes["Uncovered"], region: number): string {
  const kinds = [
    ...new Set(
      found.clicks
        .filter((click) => click.regions.includes(region))
        .flatMap((click) => click.kinds),
    ),
  ];
  return kinds.length
    ? ` (the machine: ${kinds.join(", ")})`
    : " (the machine found nothing there)";
}
