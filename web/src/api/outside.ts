import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { api, data, type Shapes } from "./client";

export type Outside = Shapes["RemovalOf"];
export type Leaves = Shapes["LeavesOf"];
export type Order = Outside["orders"][number];

const out = (orders: Order[]) =>
  orders.some((one) => one.state === "waiting" || one.state === "running");

/** What the outside service offers for a region, and what was ordered; asked again while it works. */
export const outsideQuery = (picture: number, region: number, base: number | null) =>
  queryOptions({
    queryKey: ["outside", picture, region, base],
    queryFn: async ({ client }) => {
      const key = ["outside", picture, region, base];
      const before = client.getQueryData<Outside>(key);
      const query = base === null ? { region } : { region, base };
      const now = await data(
        api.GET("/api/pictures/{id}/outside/", { params: { path: { id: picture }, query } }),
      );
      const made = (some: Outside) => some.orders.flatMap((one) => one.attempts).length;
      if (before && made(now) !== made(before))
        void client.invalidateQueries({ queryKey: ["bench", picture] });
      return now;
    },
    refetchInterval: (query) => (query.state.data && out(query.state.data.orders) ? 1000 : 15_000),
  });

export function useOutside(picture: number, job: number) {
  const client = useQueryClient();
  const refetch = () => void client.invalidateQueries({ queryKey: ["outside", picture] });
  return {
    order: useMutation({
      mutationFn: (body: Shapes["OrderAskedRequest"]) =>
        data(api.POST("/api/pictures/{id}/outside/", { params: { path: { id: picture } }, body })),
      onSettled: refetch,
    }),
    again: useMutation({
      mutationFn: (order: number) =>
        data(api.POST("/api/orders/{id}/", { params: { path: { id: order } } })),
      onSettled: refetch,
    }),
    cancel: useMutation({
      mutationFn: (order: number) =>
        data(api.DELETE("/api/orders/{id}/", { params: { path: { id: order } } })),
      onSettled: refetch,
    }),
    budget: useMutation({
      mutationFn: (credits: number) =>
        data(
          api.PUT("/api/jobs/{id}/outside-budget/", {
            params: { path: { id: job } },
            body: { credits },
          }),
        ),
      onSettled: refetch,
    }),
  };
}
