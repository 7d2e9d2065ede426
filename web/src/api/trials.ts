import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { api, data, type Shapes } from "./client";

export type Trial = Shapes["TrialOf"];
export type MethodDescribed = Shapes["MethodDescribed"];
export type RunAsked = Shapes["RunAskedRequest"];

export const methodsQuery = queryOptions({
  queryKey: ["methods"],
  queryFn: () => data(api.GET("/api/methods/")),
  staleTime: Infinity,
});

const open = (trials: Trial[]) =>
  trials.some((one) => one.state === "waiting" || one.state === "running");

/** A picture's trials; while one runs they are asked for again, and the Bench with them. */
export const trialsQuery = (picture: number) =>
  queryOptions({
    queryKey: ["trials", picture],
    queryFn: async ({ client }) => {
      const key = ["trials", picture];
      const before = client.getQueryData<Trial[]>(key);
      const now = await data(
        api.GET("/api/pictures/{id}/trials/", { params: { path: { id: picture } } }),
      );
      const made = (some: Trial[]) => some.filter((one) => one.state === "done").length;
      if (before && made(now) !== made(before))
        void client.invalidateQueries({ queryKey: ["bench", picture] });
      return now;
    },
    refetchInterval: (query) => (query.state.data && open(query.state.data) ? 1000 : false),
  });

export function useTrials(picture: number) {
  const client = useQueryClient();
  const { queryKey } = trialsQuery(picture);
  const refetch = () => void client.invalidateQueries({ queryKey });
  return {
    ask: useMutation({
      mutationFn: (body: Shapes["TrialsAskedRequest"]) =>
        data(api.POST("/api/pictures/{id}/trials/", { params: { path: { id: picture } }, body })),
      onSuccess: (now) => client.setQueryData(queryKey, now),
    }),
    putBack: useMutation({
      mutationFn: (attempt: number) =>
        data(
          api.POST("/api/attempts/{id}/put-back/", {
            params: { path: { id: attempt } },
            body: { margin: 8 },
          }),
        ),
      onSuccess: refetch,
    }),
    cancel: useMutation({
      mutationFn: (trial: number) =>
        data(api.DELETE("/api/trials/{id}/", { params: { path: { id: trial } } })),
      onSettled: refetch,
    }),
  };
}
