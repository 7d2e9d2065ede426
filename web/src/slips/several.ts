import type { Slip } from "../api/client";

export type Offered = {
  workers: Slip["workers"];
  methods: string[];
};

/** To whom all of some slips can go. */
export function offeredToAll(slips: readonly Slip[]): Offered {
  const [first, ...others] = slips;
  if (!first) return { workers: [], methods: [] };
  return {
    workers: first.workers.filter((one) =>
      others.every((slip) => slip.workers.some((other) => other.id === one.id)),
    ),
    methods: first.methods.filter((one) => others.every((slip) => slip.methods.includes(one))),
  };
}
