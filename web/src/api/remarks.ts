import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, data, type Shapes } from "./client";

export type Remark = Shapes["RemarkOf"];

/** A guest's remark on what was released to them. */
export function useRemark(release: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Shapes["RemarkAskedRequest"]) =>
      data(api.POST("/api/released/{id}/remarks/", { params: { path: { id: release } }, body })),
    onSuccess: () => void client.invalidateQueries({ queryKey: ["released"] }),
  });
}

/** An answer to one of a picture's remarks. */
export function useAnswerRemark(picture: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ id, ...body }: Shapes["RemarkAnsweredRequest"] & { id: number }) =>
      data(api.POST("/api/remarks/{id}/answer/", { params: { path: { id } }, body })),
    onSettled: () => {
      for (const key of ["bench", "desk"]) void client.invalidateQueries({ queryKey: [key] });
      void client.invalidateQueries({ queryKey: ["signing", picture] });
    },
  });
}
