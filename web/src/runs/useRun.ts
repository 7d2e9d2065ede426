import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import type { Bench, Cell } from "../api/client";
import { benchQuery } from "../api/queries";
import { runQuery, useRunBack, type RunStop } from "../api/runs";
import { addressOf, nextStop } from "./stops";

/** The run that the Bench is in, if the address names one: where it is, where it goes on, going back one. */
export function useRun(cell: Cell, onStop: (stop: RunStop) => boolean) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [search] = useSearchParams();
  const named = search.get("run");
  const id = named && /^[0-9]{1,15}$/.test(named) ? Number(named) : null;
  const run = useQuery({ ...runQuery(id ?? 0), enabled: id !== null }).data;
  const back = useRunBack(id ?? 0);
  const stop = run?.stops.find((one) => one.cell === cell.id);
  const next = run && nextStop(run, stop?.number ?? 0);
  const shown = useRef(0);
  useEffect(() => {
    shown.current = performance.now();
  }, [cell.id]);
  const ahead = next?.picture;
  useEffect(() => {
    if (ahead !== undefined) void client.prefetchQuery(benchQuery(ahead, null));
  }, [ahead, client]);
  // Until the next picture stands there, this one still hears the keys: what is pressed then is not meant for it. The reference counts for
  // keys that are faster than the next render.
  const [leaving, setLeaving] = useState(false);
  const left = useRef(false);
  const goTo = (to: RunStop | undefined) => {
    if (id === null || (to && onStop(to))) return;
    left.current = true;
    setLeaving(true);
    void navigate(addressOf(id, to));
  };
  return {
    id,
    leaving,
    left: () => left.current,
    run,
    stop,
    goTo,
    goOn: () => {
      void client.invalidateQueries({ queryKey: ["run", id] });
      goTo(next);
    },
    /** What is looked at next, in this picture or another, so that its tiles are there. */
    soon: next ? lookedAt(client.getQueryData(benchQuery(next.picture, null).queryKey), next) : [],
    seconds: () => Math.round((performance.now() - shown.current) / 10) / 100,
    goBack: (onTrouble: (words: string) => void) => {
      if (back.isPending) return;
      back.mutate(undefined, {
        onSuccess: (now) => {
          const reopened = run?.stops.find(
            (one) =>
              one.ruled !== null && now.stops.some((o) => o.cell === one.cell && o.ruled === null),
          );
          if (reopened) goTo(reopened);
        },
        onError: (error) => onTrouble(error.message),
      });
    },
  };
}

function lookedAt(bench: Bench | undefined, stop: RunStop) {
  const region = bench?.regions.find((one) => one.number === stop.region);
  const attempt = bench?.attempts.find((one) => one.number === stop.attempt);
  return bench && region && attempt?.image.ready && bench.original.ready
    ? [attempt.image, bench.original].map((image) => ({ image, box: region.bbox }))
    : [];
}

export type Running = ReturnType<typeof useRun>;
