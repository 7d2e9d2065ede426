import { useState } from "react";
import { useNavigate } from "react-router";
import type { DeskLooked } from "../api/queries";
import { useStartRun } from "../api/runs";
import { addressOf } from "../runs/stops";
import { Trouble } from "../ui/Trouble";

const ORDERS = { worst: "worst first", surest: "surest first" } as const;
type Order = keyof typeof ORDERS;

/** One undecided region after another, across pictures. */
export function StartRun({ looked }: { looked: DeskLooked }) {
  const start = useStartRun();
  const navigate = useNavigate();
  const [order, setOrder] = useState<Order>("worst");
  return (
    <span className="flex items-center gap-2">
      <button
        type="button"
        className="plain"
        disabled={start.isPending}
        onClick={() =>
          start.mutate(
            { ...looked, order },
            {
              onSuccess: (run) =>
                void navigate(
                  addressOf(
                    run.id,
                    run.stops.find((one) => one.number === run.next),
                  ),
                ),
            },
          )
        }
      >
        run through them
      </button>
      <select
        className="field"
        aria-label="in which order to run"
        value={order}
        onChange={(event) => setOrder(event.target.value as Order)}
      >
        {Object.entries(ORDERS).map(([name, words]) => (
          <option key={name} value={name}>
            {words}
          </option>
        ))}
      </select>
      <Trouble error={start.error} />
    </span>
  );
}
