import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { api, data, type Shapes } from "./client";

export type Signing = Shapes["SigningOf"];
export type Deliveries = Shapes["Deliveries"];
export type Delivery = Deliveries["deliveries"][number];
export type DeliveryAsked = Shapes["DeliveryAskedRequest"];

export const signingQuery = (picture: number) =>
  queryOptions({
    queryKey: ["signing", picture],
    queryFn: () =>
      data(api.GET("/api/pictures/{id}/sign-off/", { params: { path: { id: picture } } })),
  });

export function useSigning(picture: number) {
  const client = useQueryClient();
  const params = { path: { id: picture } };
  const outcome = {
    onSuccess: (now: Signing) => {
      client.setQueryData(signingQuery(picture).queryKey, now);
      for (const key of ["bench", "desk", "deliveries"])
        void client.invalidateQueries({ queryKey: [key] });
    },
    onError: () => void client.invalidateQueries({ queryKey: ["signing", picture] }),
  };
  return {
    sign: useMutation({
      mutationFn: (body: Shapes["SignAskedRequest"]) =>
        data(api.POST("/api/pictures/{id}/sign-off/", { params, body })),
      ...outcome,
    }),
    reopen: useMutation({
      mutationFn: (reason: string) =>
        data(api.POST("/api/pictures/{id}/reopen/", { params, body: { reason } })),
      ...outcome,
    }),
    release: useMutation({
      mutationFn: (people: number[]) =>
        data(api.POST("/api/pictures/{id}/release/", { params, body: { people } })),
      ...outcome,
    }),
  };
}

const out = (one: Delivery) => one.state === "waiting" || one.state === "building";

/** A job's signed pictures and what was built of them; asked again while something is built. */
export const deliveriesQuery = (job: number) =>
  queryOptions({
    queryKey: ["deliveries", job],
    queryFn: () => data(api.GET("/api/jobs/{id}/deliveries/", { params: { path: { id: job } } })),
    refetchInterval: (query) => (query.state.data?.deliveries.some(out) ? 1000 : 15_000),
  });

export function useDeliveries(job: number) {
  const client = useQueryClient();
  const stored = {
    onSuccess: (now: Deliveries) => client.setQueryData(deliveriesQuery(job).queryKey, now),
  };
  return {
    ask: useMutation({
      mutationFn: (body: DeliveryAsked) =>
        data(api.POST("/api/jobs/{id}/deliveries/", { params: { path: { id: job } }, body })),
      ...stored,
    }),
    again: useMutation({
      mutationFn: (delivery: number) =>
        data(api.POST("/api/deliveries/{id}/", { params: { path: { id: delivery } } })),
      ...stored,
    }),
  };
}
