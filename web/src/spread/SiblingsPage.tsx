import { useQuery } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import type { Ruling } from "../api/client";
import { benchQuery } from "../api/queries";
import { siblingsQuery, useRuleSiblings, type Sibling, type Siblings } from "../api/siblings";
import { RULINGS } from "../bench/RulingBar";
import { useKeys } from "../keys";
import { Stage } from "../stage/Stage";
import { Key } from "../ui/Key";
import { StateShape, type CellState } from "../ui/marks";
import { Notice } from "../ui/Notice";
import { counted } from "../ui/words";
import { columnsFor } from "../bench/arrange";

const nothing: never[] = [];
/** So many stand side by side at once; the rest comes on further pages. */
const PAGE = 6;

/** One region in near-identical pictures: exceptions are ticked, the rest is ruled at once. */
export function SiblingsPage() {
  const { id, region: number } = useParams();
  const [search] = useSearchParams();
  const attempt = Number(search.get("attempt"));
  const bench = useQuery(benchQuery(Number(id), null)).data;
  const region = bench?.regions.find((one) => String(one.number) === number);
  const siblings = useQuery({
    ...siblingsQuery(region?.id ?? 0, attempt),
    enabled: region !== undefined,
  });
  if (siblings.isError)
    return (
      <Notice title="The siblings cannot be shown" alert>
        {siblings.error.message}
      </Notice>
    );
  if (!bench || !region || !siblings.data) return <Notice title="Looking for siblings …" busy />;
  return (
    <Together
      found={siblings.data}
      attempt={attempt}
      title={`${bench.job}: ${region.name}`}
      back={`/pictures/${bench.id}?region=${region.number}&attempt=${attempt}`}
    />
  );
}

function Together({
  found,
  attempt,
  title,
  back,
}: {
  found: Siblings;
  attempt: number;
  title: string;
  back: string;
}) {
  const navigate = useNavigate();
  const rule = useRuleSiblings(found.region, attempt);
  const [excepted, setExcepted] = useState<number[]>([]);
  const [stands, setStands] = useState<Record<number, boolean>>({});
  const [page, setPage] = useState(0);
  const [before, setBefore] = useState(false);
  const [trouble, setTrouble] = useState<string | null>(null);
  const shown = found.siblings.slice(page * PAGE, (page + 1) * PAGE);
  const meant = shown.filter((one) => !excepted.includes(one.cell));
  // Only what stands on the screen counts as seen.
  const ready = meant.every((one) => stands[one.image.id]);
  const onSettled = useCallback(
    (settled: boolean, _: number, image: number) =>
      setStands((old) => (settled && !old[image] ? { ...old, [image]: true } : old)),
    [],
  );
  const decide = (ruling: Ruling) => () => {
    if (!found.may_rule) return setTrouble("Only a supervisor of this job rules.");
    if (!ready) return setTrouble("Not all of them are drawn yet.");
    if (meant.length === 0) return setTrouble("All of them are excepted.");
    setTrouble(null);
    if (!rule.isPending)
      rule.mutate(
        { ruling, size: found.sizes[0]?.id ?? null, cells: meant },
        { onError: (error) => setTrouble(error.message) },
      );
  };
  useKeys({
    swap: (down) => setBefore(down),
    siblings: () => void navigate(back),
    passes: decide("passes"),
    passesAtSize: decide("passes at size"),
    rework: decide("rework"),
    rebuild: decide("rebuild"),
  });
  const columns = columnsFor(shown.length, 1280, 620);
  return (
    <main className="grid h-full grid-rows-[44px_minmax(0,1fr)_auto]">
      <header
        className="flex items-center gap-4 border-b px-3"
        style={{ borderColor: "var(--line)" }}
      >
        <button type="button" className="plain" onClick={() => void navigate(back)}>
          bench <Key action="siblings" />
        </button>
        <h1 className="truncate text-[1rem] font-normal">
          <strong>{title}</strong> in {counted(found.siblings.length, "near-identical picture")}
        </h1>
        <span className="ml-auto">
          hold <Key action="swap" /> for the originals
        </span>
        {found.siblings.length > PAGE && (
          <button
            type="button"
            className="plain"
            onClick={() => setPage((page + 1) % Math.ceil(found.siblings.length / PAGE))}
          >
            the next {PAGE}
          </button>
        )}
      </header>
      <div
        className="grid min-h-0 gap-1 p-1"
        style={{ gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))` }}
      >
        {shown.map((one) => (
          <Shot
            key={one.cell}
            sibling={one}
            before={before}
            excepted={excepted.includes(one.cell)}
            onSettled={onSettled}
            onExcept={() =>
              setExcepted((old) =>
                old.includes(one.cell)
                  ? old.filter((cell) => cell !== one.cell)
                  : [...old, one.cell],
              )
            }
          />
        ))}
      </div>
      <footer
        className="rule-top flex min-h-[50px] flex-wrap items-center gap-2 px-3 py-[3px]"
        role="group"
        aria-label="Ruling"
      >
        <span className="min-w-[12rem] flex-1">
          {trouble ? (
            <strong role="alert">{trouble}</strong>
          ) : (
            `one ruling for ${counted(meant.length, "region")}${excepted.length ? `, ${excepted.length} excepted` : ""}`
          )}
        </span>
        {found.may_rule &&
          RULINGS.map(({ ruling, action, words }) => (
            <button
              key={ruling}
              type="button"
              className="ruling"
              aria-disabled={!ready || rule.isPending}
              onClick={decide(ruling)}
            >
              <StateShape state={ruling as CellState} />{" "}
              {ruling === "passes at size" ? `at size: ${found.sizes[0]?.name ?? ""}` : words}{" "}
              <Key action={action} />
            </button>
          ))}
      </footer>
    </main>
  );
}

function Shot({
  sibling,
  before,
  excepted,
  onSettled,
  onExcept,
}: {
  sibling: Sibling;
  before: boolean;
  excepted: boolean;
  onSettled: (settled: boolean, zoomed: number, image: number) => void;
  onExcept: () => void;
}) {
  return (
    <figure className="m-0 grid min-h-0 grid-rows-[minmax(0,1fr)_auto]">
      <Stage
        image={before ? sibling.original : sibling.image}
        ready={[sibling.image, sibling.original]}
        marks={nothing}
        zoom="region"
        box={sibling.bbox}
        at={`${sibling.cell}`}
        onSettled={onSettled}
        label={`${sibling.name}, ${before ? "original" : `attempt ${sibling.attempt}`}`}
      />
      <figcaption className="flex items-center gap-2 px-1 py-1 small">
        <StateShape state={(sibling.verdict?.ruling ?? "undecided") as CellState} />
        <span className="flex-1 truncate">
          {String(sibling.number).padStart(2, "0")} {sibling.name}, attempt {sibling.attempt},{" "}
          {sibling.method}
          {sibling.verdict ? `: ${sibling.verdict.ruling}` : ""}
        </span>
        <label className="flex items-center gap-1">
          <input
            type="checkbox"
            checked={excepted}
            aria-label={`except ${sibling.name}`}
            onChange={onExcept}
          />
          except
        </label>
      </figcaption>
    </figure>
  );
}
