import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, data, type Bench, type Shapes } from "./client";
import { benchQuery } from "./queries";

export type Second = Shapes["SecondOf"];

/** Asking somebody else to look, asking no longer; ruling that a thing stays, and that it does not. */
export function useSeconds(picture: number, size: number | null) {
  const client = useQueryClient();
  const query = size === null ? {} : { size };
  const told = () => {
    for (const key of ["desk", "history", "signing", "outlines"])
      void client.invalidateQueries({ queryKey: [key] });
  };
  const stored = (bench: Bench) => {
    client.setQueryData(benchQuery(picture, size).queryKey, bench);
    told();
  };
  const ask = useMutation({
    mutationFn: (asked: { cell: number; person: number; words: string }) =>
      data(
        api.POST("/api/cells/{id}/ask/", {
          params: { path: { id: asked.cell }, query },
          body: { person: asked.person, words: asked.words },
        }),
      ),
    onSuccess: stored,
  });
  const withdraw = useMutation({
    mutationFn: (look: number) =>
      data(api.DELETE("/api/second-looks/{id}/", { params: { path: { id: look }, query } })),
    onSuccess: stored,
    onError: () => void client.invalidateQueries({ queryKey: ["bench", picture] }),
  });
  const leave = useMutation({
    mutationFn: (asked: { region: number; words: string }) =>
      data(
        api.POST("/api/regions/{id}/leave/", {
          params: { path: { id: asked.region }, query },
          body: { words: asked.words },
        }),
      ),
    onSuccess: stored,
  });
  const again = useMutation({
    mutationFn: (region: number) =>
      data(api.POST("/api/regions/{id}/again/", { params: { path: { id: region } } })),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["bench", picture] });
      told();
    },
  });
  return { ask, withdraw, leave, again };
}

/** A guest's answer to what they were asked. */
export function useAnswerSecond() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (asked: { id: number; words: string }) =>
      data(
        api.POST("/api/second-looks/{id}/answer/", {
          params: { path: { id: asked.id } },
          body: { words: asked.words },
        }),
      ),
    onSettled: () => void client.invalidateQueries({ queryKey: ["released"] }),
  });
}
