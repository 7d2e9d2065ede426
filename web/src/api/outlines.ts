import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { api, data, type Shapes } from "./client";

export type Outlines = Shapes["Outlines"];
export type OutlinedRegion = Shapes["OutlinedRegion"];
type Asked = Shapes["ActAskedRequest"];
/** One act of drawing; what is left out is as the API says. */
export type Act = Partial<Omit<Asked, "mask">> &
  Pick<Asked, "what"> & { how: NonNullable<Asked["how"]> };
type Mask = { mask: string };

const making = (now: Outlines) =>
  [now.original, ...now.attempts.map((one) => one.image)].some((one) => !one.ready) ||
  now.attempts.some((one) => !one.examined);

export const outlinesQuery = (picture: number) =>
  queryOptions({
    queryKey: ["outlines", picture],
    queryFn: () =>
      data(api.GET("/api/pictures/{id}/outlines/", { params: { path: { id: picture } } })),
    // While tiles are made or attempts examined it is asked for again.
    refetchInterval: (query) => (query.state.data && making(query.state.data) ? 2000 : false),
  });

/** One act of drawing: what the outline is then. Nothing is stored by it. */
export function useAct(picture: number) {
  return useMutation({
    mutationFn: (act: Act & { mask: string | null }) =>
      data(
        api.POST("/api/pictures/{id}/outlines/act/", {
          params: { path: { id: picture } },
          body: act as Asked,
        }),
      ),
  });
}

/** Everything that is stored of a picture's regions; each answers with all of them. */
export function useRegions(picture: number) {
  const client = useQueryClient();
  const onSuccess = (now: Outlines) => {
    client.setQueryData(outlinesQuery(picture).queryKey, now);
    // What is judged, and how the picture stands, follows from its outlines.
    void client.invalidateQueries({ queryKey: ["bench", picture] });
    void client.invalidateQueries({ queryKey: ["desk"] });
  };
  const at = (id: number) => ({ params: { path: { id } } });
  return {
    draw: useMutation({
      mutationFn: (body: Mask & { name: string }) =>
        data(api.POST("/api/pictures/{id}/outlines/", { ...at(picture), body })),
      onSuccess,
    }),
    redraw: useMutation({
      mutationFn: ({ region, ...body }: Mask & { region: number; version: number }) =>
        data(api.POST("/api/regions/{id}/outline/", { ...at(region), body })),
      onSuccess,
    }),
    correct: useMutation({
      mutationFn: ({
        region,
        ...body
      }: Shapes["PatchedRegionCorrectedRequest"] & { region: number }) =>
        data(api.PATCH("/api/regions/{id}/", { ...at(region), body })),
      onSuccess,
    }),
    withdraw: useMutation({
      mutationFn: (region: number) => data(api.DELETE("/api/regions/{id}/", at(region))),
      onSuccess,
    }),
    again: useMutation({
      mutationFn: (region: number) => data(api.POST("/api/regions/{id}/again/", at(region))),
      onSuccess,
    }),
    split: useMutation({
      mutationFn: (region: number) => data(api.POST("/api/regions/{id}/split/", at(region))),
      onSuccess,
    }),
    merge: useMutation({
      mutationFn: (regions: number[]) =>
        data(api.POST("/api/pictures/{id}/outlines/merge/", { ...at(picture), body: { regions } })),
      onSuccess,
    }),
  };
}

/** The outline of an earlier version, to begin from. */
export const versionOf = (region: number, version: number) =>
  data(
    api.GET("/api/regions/{id}/versions/{version}/", { params: { path: { id: region, version } } }),
  );
