import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { api, data } from "./client";
import { broughtIn } from "./queries";

/** What a new original would touch; asked again while a worker compares. */
export const renewalQuery = (picture: number, arrival: number) =>
  queryOptions({
    queryKey: ["renewal", picture, arrival],
    queryFn: () =>
      data(
        api.GET("/api/pictures/{id}/original/", {
          params: { path: { id: picture }, query: { arrival } },
        }),
      ),
    refetchInterval: (query) => (query.state.data?.state === "working" ? 700 : false),
  });

/** Takes a new original; done once it stands in the former one's place. */
export function useRenew(picture: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (body: { arrival: number; touched: number[] }) =>
      broughtIn(
        await data(
          api.POST("/api/pictures/{id}/original/", { params: { path: { id: picture } }, body }),
        ),
        () => undefined,
      ),
    onSuccess: () => {
      for (const key of ["sheet", "bench", "desk", "history"])
        void client.invalidateQueries({ queryKey: [key] });
    },
  });
}
