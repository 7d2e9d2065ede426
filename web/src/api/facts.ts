import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { api, data, type Bench, type Shapes } from "./client";
import { sheetQuery, type JobSheet } from "./crew";
import { benchQuery } from "./queries";

/** The methods that are known, with what was said of each last in the job. */
export const methodsOfJobQuery = (job: number) =>
  queryOptions({
    queryKey: ["facts", job],
    queryFn: () => data(api.GET("/api/jobs/{id}/methods/", { params: { path: { id: job } } })),
  });

/** Correcting an attempt, withdrawing it, taking it in again. */
export function useAttempts(picture: number, size: number | null) {
  const client = useQueryClient();
  const query = size === null ? {} : { size };
  const outcome = {
    onSuccess: (bench: Bench) => {
      client.setQueryData(benchQuery(picture, size).queryKey, bench);
      for (const key of ["desk", "history", "signing", "facts", "intake", "tally"])
        void client.invalidateQueries({ queryKey: [key] });
    },
  };
  const path = (id: number) => ({ params: { path: { id }, query } });
  return {
    correct: useMutation({
      mutationFn: ({ id, body }: { id: number; body: Shapes["FactsAskedRequest"] }) =>
        data(api.PUT("/api/attempts/{id}/facts/", { ...path(id), body })),
      ...outcome,
    }),
    withdraw: useMutation({
      mutationFn: (id: number) => data(api.DELETE("/api/attempts/{id}/", path(id))),
      ...outcome,
    }),
    again: useMutation({
      mutationFn: (id: number) => data(api.POST("/api/attempts/{id}/again/", path(id))),
      ...outcome,
    }),
  };
}

/** Renaming a picture, withdrawing it, taking it in again. */
export function usePictures(job: number) {
  const client = useQueryClient();
  const outcome = {
    onSuccess: (sheet: JobSheet) => {
      client.setQueryData(sheetQuery(job).queryKey, sheet);
      for (const key of ["jobs", "desk", "bench", "slips", "intake"])
        void client.invalidateQueries({ queryKey: [key] });
    },
  };
  const path = (id: number) => ({ params: { path: { id } } });
  return {
    rename: useMutation({
      mutationFn: ({ id, name }: { id: number; name: string }) =>
        data(api.PATCH("/api/pictures/{id}/", { ...path(id), body: { name } })),
      ...outcome,
    }),
    withdraw: useMutation({
      mutationFn: (id: number) => data(api.DELETE("/api/pictures/{id}/", path(id))),
      ...outcome,
    }),
    again: useMutation({
      mutationFn: (id: number) => data(api.POST("/api/pictures/{id}/again/", path(id))),
      ...outcome,
    }),
  };
}
