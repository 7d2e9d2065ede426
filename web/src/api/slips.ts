import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { api, data, type Shapes, type Slip } from "./client";

export type SlipEdit = Shapes["PatchedSlipEditRequest"];
export type Seen = Shapes["RegionSeenRequest"];
export type Elsewhere = Shapes["ElsewhereOf"];
export type DryRun = Shapes["DryRunOf"];
export type Followed = Shapes["FollowedOfRequest"];

const moving = (slip: Slip) =>
  slip.state === "returned" ||
  slip.returning?.state === "working" ||
  slip.package.progress !== null ||
  ((slip.state === "sent" || slip.state === "working") && slip.worker.id === null);
export const slipsQuery = queryOptions({
  queryKey: ["slips"],
  queryFn: () => data(api.GET("/api/slips/")),
  refetchInterval: (query) => (query.state.data?.some(moving) ? 1500 : 15_000),
});

/** As many as the API gives at a time; where there are fewer, there are no older ones. */
export const SLIPS_A_PAGE = 100;

/** Slips that were written before another. */
export const olderSlips = (before: number) =>
  data(api.GET("/api/slips/", { params: { query: { before } } }));

export function slipQuery(slip: number) {
  return queryOptions({
    queryKey: ["slip", slip],
    queryFn: () => data(api.GET("/api/slips/{id}/", { params: { path: { id: slip } } })),
    refetchInterval: (query) => (query.state.data && moving(query.state.data) ? 1000 : 15_000),
  });
}

/** What the outside service offers for a slip, and what would leave. */
export const slipOutsideQuery = (slip: Slip) =>
  queryOptions({
    // Another outline lets something else leave.
    queryKey: ["slip outside", slip.id, slip.regions.map((region) => region.changes)],
    queryFn: () => data(api.GET("/api/slips/{id}/outside/", { params: { path: { id: slip.id } } })),
    refetchInterval: 15_000,
  });

export function useWriteSlip() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (attempt: number) =>
      data(api.POST("/api/attempts/{id}/slips/", { params: { path: { id: attempt } } })),
    onSuccess: (slip) => {
      client.setQueryData(slipQuery(slip.id).queryKey, slip);
      void client.invalidateQueries({ queryKey: ["slips"] });
      void client.invalidateQueries({ queryKey: ["bench"] });
    },
  });
}

export function useBuildPackage(id: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => data(api.POST("/api/slips/{id}/package/", { params: { path: { id } } })),
    onSuccess: (slip) => client.setQueryData(slipQuery(id).queryKey, slip),
  });
}

type Step = "withdraw" | "take-up";
export function useSlip(id: number) {
  const client = useQueryClient();
  const stored = (slip: Slip) => {
    client.setQueryData(slipQuery(id).queryKey, slip);
    for (const key of ["slips", "bench", "desk"])
      void client.invalidateQueries({ queryKey: [key] });
  };
  const params = { path: { id } };
  const edit = useMutation({
    mutationFn: (body: SlipEdit) => data(api.PATCH("/api/slips/{id}/", { params, body })),
    onSuccess: stored,
  });
  const act = useMutation({
    mutationFn: (step: Step) =>
      data(
        step === "withdraw"
          ? api.POST("/api/slips/{id}/withdraw/", { params })
          : api.POST("/api/slips/{id}/take-up/", { params }),
      ),
    onSuccess: stored,
    onError: () => void client.invalidateQueries({ queryKey: ["slip", id] }),
  });
  const dispatch = useMutation({
    mutationFn: (leaves: Seen[]) =>
      data(api.POST("/api/slips/{id}/send/", { params, body: { leaves } })),
    onSuccess: stored,
    onError: () => void client.invalidateQueries({ queryKey: ["slip", id] }),
  });
  const handIn = useMutation({
    mutationFn: (followed: Followed[]) =>
      data(api.POST("/api/slips/{id}/hand-in/", { params, body: { followed } })),
    onSuccess: stored,
    onError: () => void client.invalidateQueries({ queryKey: ["slip", id] }),
  });
  return { edit, act, dispatch, handIn, stored };
}

/** What is said on a slip, and giving it to somebody else. */
export function useSlipTalk(id: number) {
  const client = useQueryClient();
  const params = { path: { id } };
  const outcome = {
    onSuccess: (slip: Slip) => {
      client.setQueryData(slipQuery(id).queryKey, slip);
      for (const key of ["slips", "bench", "desk"])
        void client.invalidateQueries({ queryKey: [key] });
    },
    onError: () => void client.invalidateQueries({ queryKey: ["slip", id] }),
  };
  return {
    say: useMutation({
      mutationFn: (body: Shapes["SlipSaidRequest"]) =>
        data(api.POST("/api/slips/{id}/say/", { params, body })),
      ...outcome,
    }),
    handOver: useMutation({
      mutationFn: (body: Shapes["SlipHandedOverRequest"]) =>
        data(api.POST("/api/slips/{id}/hand-over/", { params, body })),
      ...outcome,
    }),
  };
}

/** What was sent put back outside what was sent: a new attempt. */
export function usePutSentBack(slip: Slip) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () =>
      data(api.POST("/api/slips/{id}/put-back/", { params: { path: { id: slip.id } } })),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["trials", slip.picture] });
      void client.invalidateQueries({ queryKey: ["bench", slip.picture] });
    },
  });
}
