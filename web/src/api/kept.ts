import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { api, data, type Shapes } from "./client";
import type { DeskLooked } from "./queries";

export const keptQuery = queryOptions({
  queryKey: ["kept views"],
  queryFn: () => data(api.GET("/api/desk/views/")),
});

/** Keeping what one looks for under a name; forgetting it. */
export function useKept() {
  const client = useQueryClient();
  const outcome = {
    onSuccess: (now: Shapes["KeptOf"][]) => client.setQueryData(keptQuery.queryKey, now),
  };
  return {
    keep: useMutation({
      mutationFn: ({ name, looked }: { name: string; looked: DeskLooked }) =>
        data(
          api.POST("/api/desk/views/", {
            body: { name, looked },
          }),
        ),
      ...outcome,
    }),
    forget: useMutation({
      mutationFn: (id: number) =>
        data(api.DELETE("/api/desk/views/{id}/", { params: { path: { id } } })),
      ...outcome,
    }),
  };
}
