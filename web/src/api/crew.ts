import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { api, data, type Shapes } from "./client";

export type JobSheet = Shapes["JobSheet"];
export type JobEdited = Shapes["PatchedJobEditedRequest"];
export type Role = Shapes["RoleEnum"];

export const sheetQuery = (job: number) =>
  queryOptions({
    queryKey: ["sheet", job],
    queryFn: () => data(api.GET("/api/jobs/{id}/sheet/", { params: { path: { id: job } } })),
  });

export function useSheet(job: number) {
  const client = useQueryClient();
  const path = { id: job };
  const outcome = {
    // Nothing comes back to whoever took themselves out.
    onSuccess: (now: JobSheet | undefined) => {
      if (now) client.setQueryData(sheetQuery(job).queryKey, now);
      for (const key of ["jobs", "session", "bench", "desk"])
        void client.invalidateQueries({ queryKey: [key] });
    },
  };
  return {
    edit: useMutation({
      mutationFn: (body: JobEdited) =>
        data(api.PATCH("/api/jobs/{id}/sheet/", { params: { path }, body })),
      ...outcome,
    }),
    role: useMutation({
      mutationFn: ({ person, role }: { person: number; role: Role }) =>
        data(
          api.PUT("/api/jobs/{id}/people/{person}/", {
            params: { path: { ...path, person } },
            body: { role },
          }),
        ),
      ...outcome,
    }),
    remove: useMutation({
      mutationFn: (person: number) =>
        data(
          api.DELETE("/api/jobs/{id}/people/{person}/", { params: { path: { ...path, person } } }),
        ) as Promise<JobSheet | undefined>,
      ...outcome,
    }),
    invite: useMutation({
      mutationFn: (body: Shapes["InvitationAskedRequest"]) =>
        data(api.POST("/api/jobs/{id}/invitations/", { params: { path }, body })),
      ...outcome,
    }),
    withdraw: useMutation({
      mutationFn: (invitation: number) =>
        data(api.DELETE("/api/invitations/{id}/", { params: { path: { id: invitation } } })),
      ...outcome,
    }),
  };
}

export const invitedQuery = (token: string) =>
  queryOptions({
    queryKey: ["invited", token],
    queryFn: () => data(api.GET("/api/join/{token}/", { params: { path: { token } } })),
    retry: false,
    staleTime: Infinity,
  });

export function useJoin(token: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Shapes["JoiningRequest"]) =>
      data(api.POST("/api/join/{token}/", { params: { path: { token } }, body })),
    onSuccess: () => void client.invalidateQueries(),
  });
}
