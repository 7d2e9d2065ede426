import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { api, data, type Shapes } from "./client";

export type Run = Shapes["RunOf"];
export type RunStop = Run["stops"][number];

export const runQuery = (run: number) =>
  queryOptions({
    queryKey: ["run", run],
    queryFn: () => data(api.GET("/api/runs/{id}/", { params: { path: { id: run } } })),
  });

/** Starting a run through what is looked for. */
export function useStartRun() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Shapes["RunAskedForRequest"]) => data(api.POST("/api/runs/", { body })),
    onSuccess: (run) => client.setQueryData(runQuery(run.id).queryKey, run),
  });
}

/** Taking a run's last ruling back. */
export function useRunBack(run: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => data(api.DELETE("/api/runs/{id}/last/", { params: { path: { id: run } } })),
    onSuccess: (now) => {
      client.setQueryData(runQuery(run).queryKey, now);
      for (const key of ["bench", "desk", "history"])
        void client.invalidateQueries({ queryKey: [key] });
    },
  });
}
