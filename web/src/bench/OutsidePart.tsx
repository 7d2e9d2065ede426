import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Attempt, Bench, Region } from "../api/client";
import { outsideQuery, useOutside, type Order, type Outside } from "../api/outside";
import { outlined } from "../stage/evidence";
import { WhatLeaves } from "../stage/WhatLeaves";
import { counted } from "../ui/words";
import { Trouble } from "../ui/Trouble";

type Props = {
  bench: Bench;
  region: Region;
  attempt: Attempt;
  /** What it is made from; null: the original. */
  base: number | null;
  onShow: (attempt: number) => void;
  ready: (attempt: number) => boolean;
};

/** Ordering the removal outside: what would leave, what it costs, under which terms. */
export function OutsidePart({ bench, region, attempt, base, onShow, ready }: Props) {
  const outside = useQuery(outsideQuery(bench.id, region.id, base)).data;
  if (!outside?.name) return null;
  return (
    <section className="rule-top py-2" aria-label="Outside service">
      <h3 className="m-0 text-[1rem]">{outside.name}, outside the house</h3>
      <Offer
        bench={bench}
        region={region}
        outside={outside}
        image={base === null ? bench.original : attempt.image}
        base={base}
      />
      <Orders bench={bench} orders={outside.orders} onShow={onShow} ready={ready} />
    </section>
  );
}

function Offer({
  bench,
  region,
  outside,
  image,
  base,
}: {
  bench: Bench;
  region: Region;
  outside: Outside;
  image: Bench["original"];
  base: number | null;
}) {
  const { order, budget } = useOutside(bench.id, bench.job_id);
  const [tier, setTier] = useState<string | null>(null);
  const [shown, setShown] = useState(false);
  const chosen =
    outside.tiers.find((one) => one.name === tier) ?? outside.tiers.find((one) => !one.refused);
  const { leaves } = outside;
  if (outside.tiers.length === 0)
    return (
      <p className="m-0">It has not said yet what it offers; it is asked every few seconds.</p>
    );
  const left = Math.max(0, outside.credits - outside.spent);
  const may = chosen && !chosen.refused && chosen.credits <= left && leaves;
  return (
    <>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 py-1">
        <label className="flex items-center gap-2">
          terms
          <select
            className="field"
            value={chosen?.name ?? ""}
            onChange={(event) => setTier(event.target.value)}
          >
            {outside.tiers.map((one) => (
              <option key={one.name} value={one.name} disabled={one.refused !== null}>
                {one.terms}: {counted(one.credits, "credit")}
                {one.refused ? " (not for this job)" : ""}
              </option>
            ))}
          </select>
        </label>
        <label className="flex items-center gap-1">
          {outside.spent} of
          <input
            key={outside.credits}
            className="field w-20"
            type="number"
            min={0}
            aria-label="credits that this job may spend"
            defaultValue={outside.credits}
            onBlur={(event) => {
              const credits = Number(event.target.value);
              if (credits !== outside.credits) budget.mutate(credits);
            }}
          />
          credits of this job are spent
        </label>
        {leaves && (
          <button
            type="button"
            className="plain"
            aria-expanded={shown}
            onClick={() => setShown((old) => !old)}
          >
            show what leaves
          </button>
        )}
      </div>
      {outside.tiers
        .filter((one) => one.refused)
        .map((one) => (
          <p key={one.name} className="m-0 small">
            “{one.name}” cannot be used: {one.refused}.
          </p>
        ))}
      {outside.resting && (
        <p className="m-0" role="status">
          It failed several times in a row and is left alone for a while; what is ordered waits.
        </p>
      )}
      {shown && leaves && (
        <div className="py-1">
          <WhatLeaves
            image={image}
            outlines={[outlined(region)]}
            leaves={leaves}
            largest={outside.largest}
            label="what would leave the house"
          />
          <p className="m-0 flex items-center gap-3 py-1">
            <button
              type="button"
              className="plain"
              aria-disabled={!may || order.isPending}
              onClick={() =>
                may &&
                !order.isPending &&
                order.mutate(
                  { region: region.id, base, tier: chosen.name, box: leaves.box },
                  { onSuccess: () => setShown(false) },
                )
              }
            >
              let it leave for {counted(chosen?.credits ?? 0, "credit")}
            </button>
            <span className="small">
              {chosen && chosen.credits > left
                ? `${counted(left, "credit")} of the job's ${outside.credits} are left.`
                : `${counted(outside.takes, "take")}, each an attempt; it is written down.`}
            </span>
          </p>
        </div>
      )}
      <Trouble error={order.error ?? budget.error} />
    </>
  );
}

function Orders({
  bench,
  orders,
  onShow,
  ready,
}: {
  bench: Bench;
  orders: Order[];
  onShow: (attempt: number) => void;
  ready: (attempt: number) => boolean;
}) {
  const { again, cancel } = useOutside(bench.id, bench.job_id);
  const trouble = again.error ?? cancel.error;
  const nameOf = (id: number) => bench.regions.find((one) => one.id === id)?.name ?? "a region";
  if (orders.length === 0) return null;
  return (
    <>
      <table className="w-full border-collapse" aria-label="Orders">
        <tbody>
          {orders.map((one) => (
            <tr key={one.id} className="align-baseline" data-order={one.id} data-state={one.state}>
              <th scope="row" className="py-0.5 pr-3 text-left font-normal">
                {nameOf(one.region)}, {one.terms}
              </th>
              <td className="pr-3 small">
                {counted(one.credits, "credit")}
                {one.left ? "" : ", has not left yet"}
              </td>
              <td className="pr-3">
                {one.state === "waiting" || one.state === "running" ? (
                  <span className="flex items-center gap-2">
                    <progress
                      className="h-[8px] w-[100px]"
                      value={one.progress}
                      aria-label="how far the order is"
                    />
                    <span className="small">{one.words || one.state}</span>
                  </span>
                ) : one.state === "failed" ? (
                  <span role="alert">{one.reason}</span>
                ) : one.state === "cancelled" ? (
                  "given up"
                ) : (
                  one.attempts.filter(ready).map((number) => (
                    <button
                      key={number}
                      type="button"
                      className="quiet"
                      onClick={() => onShow(number)}
                    >
                      attempt {number}
                    </button>
                  ))
                )}
              </td>
              <td className="text-right whitespace-nowrap">
                {one.state === "failed" && (
                  <button type="button" className="quiet" onClick={() => again.mutate(one.id)}>
                    go on with it
                  </button>
                )}
                {["waiting", "running", "failed"].includes(one.state) && (
                  <button type="button" className="quiet" onClick={() => cancel.mutate(one.id)}>
                    give it up
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Trouble error={trouble} />
    </>
  );
}
