import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { api, data, type Shapes } from "./client";

export const tokensQuery = queryOptions({
  queryKey: ["tokens"],
  queryFn: () => data(api.GET("/api/session/tokens/")),
});

/** Making a token, whose secret is shown once; revoking one. */
export function useTokens() {
  const client = useQueryClient();
  const outcome = {
    onSuccess: (now: Shapes["TokensOf"]) =>
      client.setQueryData(tokensQuery.queryKey, { ...now, secret: null }),
  };
  return {
    make: useMutation({
      mutationFn: (name: string) => data(api.POST("/api/session/tokens/", { body: { name } })),
      ...outcome,
    }),
    revoke: useMutation({
      mutationFn: (id: number) =>
        data(api.DELETE("/api/session/tokens/{id}/", { params: { path: { id } } })),
      ...outcome,
    }),
  };
}
