import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { api, data, type Shapes } from "./client";

export type News = Shapes["NewsOf"];

/** Says that one is at the Desk; what happened since one was there before. */
export const visitQuery = queryOptions({
  queryKey: ["visit"],
  queryFn: () => data(api.POST("/api/desk/visit/")),
  staleTime: 60_000,
});

/** Putting somebody in charge of a picture. */
export function useCharge() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ picture, ...body }: Shapes["ChargeAskedRequest"] & { picture: number }) =>
      data(api.PUT("/api/pictures/{id}/charge/", { params: { path: { id: picture } }, body })),
    onSuccess: (_, { picture }) => {
      void client.invalidateQueries({ queryKey: ["desk"] });
      void client.invalidateQueries({ queryKey: ["history", picture] });
    },
  });
}
