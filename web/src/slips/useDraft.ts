import { useEffect, useState } from "react";
import type { Slip } from "../api/client";
import { useSlip, type Seen } from "../api/slips";
import type { To } from "./Recipient";
import type { RegionDraft } from "./RegionPart";

type Draft = To & {
  note: string;
  regions: Record<number, RegionDraft>;
};
const draftOf = (slip: Slip): Draft => ({
  note: slip.note,
  worker: slip.worker.id,
  method: slip.method,
  tier: slip.tier,
  due: slip.due,
  regions: Object.fromEntries(
    slip.regions.map((region) => [region.region, { changes: region.changes, note: region.note }]),
  ),
});

/** What is typed on a slip before it is sent, kept as it is typed; and the steps that it takes. */
export function useDraft(slip: Slip, open: boolean) {
  const { edit, act, dispatch } = useSlip(slip.id);
  const [draft, setDraft] = useState(() => draftOf(slip));
  const [trouble, setTrouble] = useState<string | null>(null);
  const kept = JSON.stringify(draft) === JSON.stringify(draftOf(slip));
  const body = () => ({
    note: draft.note,
    worker: draft.worker,
    method: draft.method,
    tier: draft.tier,
    due: draft.due || null,
    regions: Object.entries(draft.regions).map(([region, one]) => ({
      region: Number(region),
      ...one,
    })),
  });
  const fail = (error: Error) => setTrouble(error.message);
  const cells = slip.regions.flatMap((region) => region.sent_cell ?? []);
  // What it takes is stored at once, with all that was typed so far.
  const take = (wanted: number[]) =>
    edit.mutate(
      { ...body(), cells: wanted },
      {
        onSuccess: (now) => {
          setTrouble(null);
          setDraft(draftOf(now));
        },
        onError: fail,
      },
    );

  // What was typed is kept a moment after the last stroke, and before sending in any case.
  const keep = edit.mutate;
  useEffect(() => {
    if (kept || !open) return undefined;
    const timer = setTimeout(
      () => keep(body(), { onSuccess: () => setTrouble(null), onError: fail }),
      700,
    );
    return () => clearTimeout(timer);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [draft, kept, open]);

  const send = async (seen: Seen[]) => {
    setTrouble(null);
    try {
      if (open && !kept) await edit.mutateAsync(body());
      await dispatch.mutateAsync(seen);
    } catch (error) {
      fail(error as Error);
    }
  };
  const step = (what: "withdraw" | "take-up") => act.mutate(what, { onError: fail });
  return {
    draft,
    setDraft,
    kept,
    keeping: edit.isPending,
    busy: act.isPending || dispatch.isPending,
    trouble,
    take,
    send,
    step,
    cells,
  };
}
