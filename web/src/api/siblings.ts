import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { api, data, type Ruling, type Shapes } from "./client";

export type Siblings = Shapes["SiblingsOf"];
export type Sibling = Siblings["siblings"][number];

export const siblingsQuery = (region: number, attempt: number) =>
  queryOptions({
    queryKey: ["siblings", region, attempt],
    queryFn: () =>
      data(
        api.GET("/api/regions/{id}/siblings/", {
          params: { path: { id: region }, query: { attempt } },
        }),
      ),
  });

/** Ruling on several siblings at once. */
export function useRuleSiblings(region: number, attempt: number) {
  const client = useQueryClient();
  const key = siblingsQuery(region, attempt).queryKey;
  return useMutation({
    mutationFn: (asked: { ruling: Ruling; size: number | null; cells: Sibling[] }) =>
      data(
        api.POST("/api/regions/{id}/siblings/rule/", {
          params: { path: { id: region }, query: { attempt } },
          body: {
            ruling: asked.ruling,
            size: asked.size,
            cells: asked.cells.map(({ cell, revision }) => ({ cell, revision })),
          },
        }),
      ),
    onSuccess: (now) => {
      client.setQueryData(key, now);
      for (const one of ["bench", "desk", "history"])
        void client.invalidateQueries({ queryKey: [one] });
    },
    onError: () => void client.invalidateQueries({ queryKey: key }),
  });
}
