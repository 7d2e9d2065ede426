import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { api, data, type Shapes } from "./client";

export type Shot = Shapes["ShotOf"];
export type ShotAttempt = Shapes["ShotAttemptOf"];
export type ShotRegion = Shapes["ShotRegionOf"];
export type ShotCell = Shapes["ShotCellOf"];
export type ShotFinding = Shapes["ShotFindingOf"];
export type ShotChecked = Shapes["ShotCheckedRegion"];
export type Footage = Shapes["FootageOf"];
export type ShotSlip = Shapes["ShotSlipOf"];
export type ListedShotSlip = Shapes["ShotSlipInList"];
export type ShotsOfJob = Shapes["ShotsOfJob"];
export type ShotAsked = Shapes["ShotAskedRequest"];
export type ShotRuling = Shapes["ShotRulingAskedRequest"];

export const shotsQuery = (job: number) =>
  queryOptions({
    queryKey: ["shots", job],
    queryFn: () => data(api.GET("/api/jobs/{id}/shots/", { params: { path: { id: job } } })),
    refetchInterval: (query) =>
      query.state.data?.waiting.some((one) => one.state === "reading") ? 1000 : 15_000,
  });

export const shotQuery = (shot: number) =>
  queryOptions({
    queryKey: ["shot", shot],
    queryFn: () => data(api.GET("/api/shots/{id}/", { params: { path: { id: shot } } })),
    refetchInterval: (query) => (query.state.data?.busy ? 1500 : 30_000),
  });

export function useShots(job: number) {
  const client = useQueryClient();
  const again = () => void client.invalidateQueries({ queryKey: ["shots", job] });
  const path = { id: job };
  return {
    make: useMutation({
      mutationFn: (body: ShotAsked) =>
        data(api.POST("/api/jobs/{id}/shots/", { params: { path }, body })),
      onSettled: again,
    }),
    add: useMutation({
      mutationFn: ({ shot, ...body }: { shot: number; footage: number; method: string }) =>
        data(
          api.POST("/api/shots/{id}/attempts/", {
            params: { path: { id: shot } },
            body: { ...body, maker: "" },
          }),
        ),
      onSettled: again,
    }),
    forget: useMutation({
      mutationFn: (footage: number) =>
        data(api.DELETE("/api/footage/{id}/", { params: { path: { id: footage } } })),
      onSettled: again,
    }),
    again,
  };
}

/** What is done on a shot's page; each answer is the page as it is then. */
export function useShot(shot: number) {
  const client = useQueryClient();
  const path = { id: shot };
  const outcome = {
    onSuccess: (now: Shot) => client.setQueryData(shotQuery(shot).queryKey, now),
    onError: () => void client.invalidateQueries({ queryKey: ["shot", shot] }),
  };
  return {
    rule: useMutation({
      mutationFn: ({ attempt, ...body }: { attempt: number } & ShotRuling) =>
        data(
          api.POST("/api/shot-attempts/{id}/verdicts/", {
            params: { path: { id: attempt } },
            body,
          }),
        ),
      ...outcome,
    }),
    draw: useMutation({
      mutationFn: (body: Shapes["ShotOutlineAskedRequest"]) =>
        data(api.POST("/api/shots/{id}/outlines/", { params: { path }, body })),
      ...outcome,
    }),
    forget: useMutation({
      mutationFn: ({ region, frame }: { region: number; frame: number }) =>
        data(
          api.DELETE("/api/shots/{id}/outlines/{region}/{frame}/", {
            params: { path: { ...path, region, frame } },
          }),
        ),
      ...outcome,
    }),
    check: useMutation({
      mutationFn: (attempt: number) =>
        data(api.POST("/api/shot-attempts/{id}/check/", { params: { path: { id: attempt } } })),
      ...outcome,
    }),
  };
}

const moving = (slip: ListedShotSlip) => slip.state === "returned" || slip.progress !== null;

/** Slips of shots that one supervises or works on. */
export const shotSlipsQuery = queryOptions({
  queryKey: ["shot slips"],
  queryFn: () => data(api.GET("/api/shot-slips/")),
  refetchInterval: (query) => (query.state.data?.some(moving) ? 1500 : 15_000),
});

/** As many as the API gives at a time. */
export const SHOT_SLIPS_A_PAGE = 50;

export const olderShotSlips = (before: number) =>
  data(api.GET("/api/shot-slips/", { params: { query: { before } } }));

/** Frames that are worked again. */
export function useShotSlips(shot: number) {
  const client = useQueryClient();
  const anew = () => void client.invalidateQueries({ queryKey: ["shot", shot] });
  const outcome = {
    onSuccess: (now: Shot) => {
      client.setQueryData(shotQuery(shot).queryKey, now);
      void client.invalidateQueries({ queryKey: ["shot slips"] });
    },
    onError: anew,
  };
  return {
    anew,
    pack: useMutation({
      mutationFn: (slip: number) =>
        data(api.POST("/api/shot-slips/{id}/package/", { params: { path: { id: slip } } })),
      ...outcome,
    }),
    forget: useMutation({
      mutationFn: (footage: number) =>
        data(api.DELETE("/api/footage/{id}/", { params: { path: { id: footage } } })),
      onSettled: anew,
    }),
    send: useMutation({
      mutationFn: (body: Shapes["ShotSlipAskedRequest"]) =>
        data(api.POST("/api/shots/{id}/slips/", { params: { path: { id: shot } }, body })),
      ...outcome,
    }),
    step: useMutation({
      mutationFn: ({ slip, ...body }: { slip: number } & Shapes["ShotSlipStepRequest"]) =>
        data(api.POST("/api/shot-slips/{id}/", { params: { path: { id: slip } }, body })),
      ...outcome,
    }),
    answer: useMutation({
      mutationFn: ({ slip, footage }: { slip: number; footage: number }) =>
        data(
          api.POST("/api/shot-slips/{id}/answer/", {
            params: { path: { id: slip } },
            body: { footage },
          }),
        ),
      ...outcome,
    }),
  };
}
