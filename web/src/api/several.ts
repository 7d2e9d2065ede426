import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { api, data, type Shapes } from "./client";

export const waitingQuery = queryOptions({
  queryKey: ["slips", "waiting"],
  queryFn: () => data(api.GET("/api/slips/waiting/")),
});

/** Slips of many pictures: written at once, sent at once. */
export function useSeveral() {
  const client = useQueryClient();
  const onSuccess = () => {
    for (const key of ["slips", "bench", "desk"])
      void client.invalidateQueries({ queryKey: [key] });
  };
  return {
    write: useMutation({
      mutationFn: (pictures: number[]) =>
        data(api.POST("/api/slips/waiting/", { body: { pictures } })),
      onSuccess,
    }),
    send: useMutation({
      mutationFn: (body: Shapes["SlipsSentRequest"]) =>
        data(api.POST("/api/slips/send/", { body })),
      onSuccess,
    }),
  };
}
