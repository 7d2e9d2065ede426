import {
  infiniteQueryOptions,
  queryOptions,
  useMutation,
  useQueryClient,
} from "@tanstack/react-query";
import { useEffect } from "react";
import {
  ApiError,
  api,
  data,
  type Answer,
  type OutsideAnswer,
  type Bench,
  type CellDetail,
  type ImageOf,
  type Ruling,
  type Session,
  type Shapes,
} from "./client";
import type { operations } from "./schema";

export const sessionQuery = queryOptions({
  queryKey: ["session"],
  queryFn: () => data(api.GET("/api/session/")),
  staleTime: Infinity,
});
/** A page of the Desk. What is known is asked for with its stamp, so that an answer without changes is a line. */
/** What is looked for on the Desk; empty words look for everything. */
type DeskAsked = NonNullable<operations["desk"]["parameters"]["query"]>;
export type DeskLooked = Required<
  Pick<DeskAsked, "q" | "need" | "kind" | "severity" | "method" | "due" | "charge" | "sort">
> & { job: number | null };
export const EVERYTHING: DeskLooked = {
  q: "",
  job: null,
  need: "",
  kind: "",
  severity: "",
  method: "",
  due: "",
  charge: "",
  sort: "deadline",
};

export function deskQuery(start: number, looked: DeskLooked = EVERYTHING) {
  return queryOptions({
    queryKey: ["desk", start, looked],
    queryFn: async ({ client, queryKey }) => {
      const known = client.getQueryData<Shapes["Desk"]>(queryKey);
      const { job, ...words } = looked;
      const query = {
        start,
        ...words,
        ...(job === null ? {} : { job }),
        ...(known ? { since: known.stamp } : {}),
      };
      const found = await data(api.GET("/api/desk/", { params: { query } }));
      return found.changed || !known ? found : known;
    },
    refetchInterval: (query) =>
      query.state.data?.pictures.some((picture) => picture.checking > 0) ? 1000 : 15_000,
  });
}
export const releasedQuery = queryOptions({
  queryKey: ["released"],
  queryFn: () => data(api.GET("/api/released/")),
});

export function benchQuery(picture: number, size: number | null) {
  return queryOptions({
    queryKey: ["bench", picture, size],
    queryFn: () =>
      data(
        api.GET("/api/pictures/{id}/bench/", {
          params: { path: { id: picture }, query: size === null ? {} : { size } },
        }),
      ),
    // While something is being made it is asked for again; otherwise a returned attempt shows within the quarter minute.
    refetchInterval: (query) => (query.state.data && unfinished(query.state.data) ? 1000 : 15_000),
    placeholderData: (previous) => previous,
  });
}

export function unfinished(bench: Bench): boolean {
  return (
    !bench.original.ready ||
    bench.assembly?.state === "waiting" ||
    bench.assembly?.state === "running" ||
    bench.attempts.some(
      (attempt) =>
        !attempt.image.ready ||
        attempt.check_of?.state === "waiting" ||
        attempt.check_of?.state === "running",
    )
  );
}

/** A cell's findings; `check` is part of the key, so that a finished check is fetched. */
export function cellQuery(cell: number, check: string) {
  return queryOptions({
    queryKey: ["cell", cell, check],
    queryFn: () => data(api.GET("/api/cells/{id}/", { params: { path: { id: cell } } })),
    staleTime: Infinity,
  });
}

/** How one spot reads in two images: pixels never change, so an answer is kept. */
export function spotQuery(
  picture: number,
  [x, y]: readonly [number, number],
  a: number,
  b: number,
) {
  return queryOptions({
    queryKey: ["spot", picture, x, y, a, b],
    queryFn: () =>
      data(
        api.GET("/api/pictures/{id}/spot/", {
          params: { path: { id: picture }, query: { x, y, a, b } },
        }),
      ),
    staleTime: Infinity,
    gcTime: 30_000,
    retry: false,
  });
}

/** `state` is part of the key, so that a finished check is fetched. */
export function spreadQuery(region: number, size: number | null, state: string) {
  return queryOptions({
    queryKey: ["spread", region, size, state],
    queryFn: () =>
      data(
        api.GET("/api/regions/{id}/spread/", {
          params: { path: { id: region }, query: size === null ? {} : { size } },
        }),
      ),
    placeholderData: (previous: Shapes["Spread"] | undefined) => previous,
  });
}

export function usePick(region: number, size: number | null) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (attempt: number) =>
      data(
        api.POST("/api/regions/{id}/picks/", {
          params: { path: { id: region }, query: size === null ? {} : { size } },
          body: { attempt },
        }),
      ),
    onSuccess: () => void client.invalidateQueries({ queryKey: ["spread", region] }),
  });
}

export function pairQuery(region: number) {
  return queryOptions({
    queryKey: ["pair", region],
    queryFn: () => data(api.GET("/api/regions/{id}/pairs/", { params: { path: { id: region } } })),
    staleTime: Infinity,
    gcTime: 0,
  });
}

export function useChoose(region: number) {
  const client = useQueryClient();
  const onSuccess = (next: Shapes["PairOf"]) => {
    client.setQueryData(pairQuery(region).queryKey, next);
    void client.invalidateQueries({ queryKey: ["spread", region] });
  };
  // One after the other: what is taken back while a choice is under way is that choice.
  const scope = { id: `pairs of ${region}` };
  const choose = useMutation({
    scope,
    mutationFn: (body: Shapes["PairAskedRequest"]) =>
      data(api.POST("/api/regions/{id}/pairs/", { params: { path: { id: region } }, body })),
    onSuccess,
  });
  const takeBack = useMutation({
    scope,
    mutationFn: () =>
      data(api.DELETE("/api/regions/{id}/pairs/", { params: { path: { id: region } } })),
    onSuccess,
  });
  return { choose, takeBack };
}

export function changesQuery(before: number, after: number, state: string) {
  return queryOptions({
    queryKey: ["changes", before, after, state],
    queryFn: () =>
      data(
        api.GET("/api/attempts/{id}/changes/", {
          params: { path: { id: after }, query: { before } },
        }),
      ),
  });
}

export function useAssemble(picture: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (parts: Shapes["AssemblyPartOfRequest"][]) =>
      data(
        api.POST("/api/pictures/{id}/assemblies/", {
          params: { path: { id: picture } },
          body: { parts },
        }),
      ),
    onSuccess: () => void client.invalidateQueries({ queryKey: ["bench", picture] }),
  });
}

/** Asked again only while the tiles of some picture are being made. */
export const coldQuery = queryOptions({
  queryKey: ["cold"],
  queryFn: () => data(api.GET("/api/cold/")),
  staleTime: Infinity,
  gcTime: 0,
  refetchInterval: (query) => (query.state.data?.some((one) => !one.image.ready) ? 1000 : false),
});

export function useLookCold(attempt: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Shapes["ColdAskedRequest"]) =>
      data(api.POST("/api/attempts/{id}/cold-looks/", { params: { path: { id: attempt } }, body })),
    onSuccess: () => {
      for (const key of ["bench", "desk", "history"])
        void client.invalidateQueries({ queryKey: [key] });
    },
  });
}

export function evidenceQuery(finding: number) {
  return queryOptions({
    queryKey: ["evidence", finding],
    queryFn: () =>
      data(api.GET("/api/findings/{id}/picture/", { params: { path: { id: finding } } })),
    staleTime: Infinity,
  });
}

export const kindsQuery = queryOptions({
  queryKey: ["kinds"],
  queryFn: () => data(api.GET("/api/kinds/")),
  staleTime: Infinity,
});

export function useSetBar(job: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (bar: Record<string, number>) =>
      data(api.PUT("/api/jobs/{id}/bar/", { params: { path: { id: job } }, body: { bar } })),
    onSuccess: () => {
      for (const key of ["bench", "desk", "spread", "cell", "sheet"])
        void client.invalidateQueries({ queryKey: [key] });
    },
  });
}

/** Marking a flaw of one's own in a cell, and taking it back. */
export function useOwnFlaws(key: readonly unknown[], picture: number) {
  const client = useQueryClient();
  const after = () => {
    for (const one of [
      ["bench", picture],
      ["history", picture],
    ])
      void client.invalidateQueries({ queryKey: one });
  };
  const mark = useMutation({
    mutationFn: ({ cell, ...body }: Shapes["OwnFindingAskedRequest"] & { cell: number }) =>
      data(api.POST("/api/cells/{id}/own-findings/", { params: { path: { id: cell } }, body })),
    onSuccess: (detail) => {
      client.setQueryData<CellDetail>(key, detail);
      after();
    },
  });
  const unmark = useMutation({
    mutationFn: (id: number) =>
      data(api.DELETE("/api/own-findings/{id}/", { params: { path: { id } } })),
    onSuccess: (_, id) => {
      client.setQueryData<CellDetail>(
        key,
        (old) => old && { ...old, own: old.own.filter((one) => one.id !== id) },
      );
      after();
    },
  });
  return { mark, unmark };
}

export const aidsQuery = queryOptions({
  queryKey: ["aids"],
  queryFn: () => data(api.GET("/api/aids/")),
  staleTime: Infinity,
});

/** How far an aid of an image is; it is asked for while somebody looks. */
export function aidQuery(image: number, name: string) {
  return queryOptions({
    queryKey: ["aid", image, name],
    queryFn: async ({ client, queryKey }) => {
      const params = { path: { id: image, name } };
      return client.getQueryData(queryKey) === undefined
        ? data(api.POST("/api/images/{id}/aids/{name}/", { params }))
        : data(api.GET("/api/images/{id}/aids/{name}/", { params }));
    },
    refetchInterval: (query) =>
      query.state.data?.ready || query.state.data?.state === "failed" ? false : 700,
    staleTime: 60_000,
  });
}

/** What was said and done, the newest first, page by page. */
export function historyQuery(picture: number) {
  return infiniteQueryOptions({
    queryKey: ["history", picture],
    queryFn: ({ pageParam }) =>
      data(
        api.GET("/api/pictures/{id}/history/", {
          params: {
            path: { id: picture },
            query: pageParam === null ? {} : { before: pageParam },
          },
        }),
      ),
    initialPageParam: null as number | null,
    getNextPageParam: (page) => page.more,
  });
}

/** Say once that a picture was drawn here: from then on no look at it is cold. */
export function useSeen(picture: number, drawn: boolean) {
  const client = useQueryClient();
  const { mutate } = useMutation({
    mutationFn: () =>
      data(api.POST("/api/pictures/{id}/seen/", { params: { path: { id: picture } } })),
    onSuccess: () => {
      for (const key of ["desk", "cold"]) void client.invalidateQueries({ queryKey: [key] });
    },
  });
  useEffect(() => {
    if (drawn) mutate();
  }, [drawn, picture, mutate]);
}

/** Ask once for the tiles of images that have none: they come by themselves unless somebody removed them. */
export function useAskTiles(images: readonly ImageOf[]) {
  const { mutate } = useMutation({
    mutationFn: (image: number) =>
      data(api.POST("/api/images/{id}/tiles/", { params: { path: { id: image } } })),
  });
  const lacking = images
    .filter((image) => !image.ready)
    .map((image) => image.id)
    .join();
  useEffect(() => {
    for (const id of lacking.split(",").filter(Boolean)) mutate(Number(id));
  }, [lacking, mutate]);
}

/** Change one's own password. */
export function useChangePassword() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (given: { old: string; new: string }) =>
      data(api.POST("/api/session/password/", { body: given })),
    onSuccess: () => void client.invalidateQueries({ queryKey: ["session"] }),
  });
}

export function useSignIn() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (given: { username: string; password: string }) =>
      data(api.POST("/api/session/", { body: given })),
    onSuccess: (session: Session) => {
      client.setQueryData(sessionQuery.queryKey, session);
      void client.invalidateQueries({ predicate: (query) => query.queryKey[0] !== "session" });
    },
  });
}

export function useSignOut() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => data(api.DELETE("/api/session/")),
    onSuccess: () => {
      client.clear();
      window.location.assign("/");
    },
  });
}

export function useRule(picture: number, size: number | null) {
  const client = useQueryClient();
  const stored = (bench: Bench) => {
    client.setQueryData(benchQuery(picture, size).queryKey, bench);
    for (const key of ["desk", "run"]) void client.invalidateQueries({ queryKey: [key] });
    void client.invalidateQueries({ queryKey: ["history", picture] });
  };
  const refused = () => void client.invalidateQueries({ queryKey: ["bench", picture] });
  const query = size === null ? {} : { size };
  const rule = useMutation({
    mutationFn: (asked: {
      cell: number;
      revision: number;
      ruling: Ruling;
      size: number | null;
      inRun: { run: number; seconds: number } | null;
    }) =>
      data(
        api.POST("/api/cells/{id}/verdict/", {
          params: {
            path: { id: asked.cell },
            header: { "If-Match": `"${asked.revision}"` },
            query,
          },
          body: { ruling: asked.ruling, size: asked.size, ...asked.inRun },
        }),
      ),
    onSuccess: stored,
    onError: refused,
  });
  const takeBack = useMutation({
    mutationFn: (asked: { cell: number; revision: number }) =>
      data(
        api.DELETE("/api/cells/{id}/verdict/", {
          params: {
            path: { id: asked.cell },
            header: { "If-Match": `"${asked.revision}"` },
            query,
          },
        }),
      ),
    onSuccess: stored,
    onError: refused,
  });
  return { rule, takeBack };
}

/** Words on the ruling that stands in a cell. */
export function useSay(picture: number, size: number | null) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (asked: { cell: number; revision: number; words: string }) =>
      data(
        api.PUT("/api/cells/{id}/words/", {
          params: {
            path: { id: asked.cell },
            header: { "If-Match": `"${asked.revision}"` },
            query: size === null ? {} : { size },
          },
          body: { words: asked.words },
        }),
      ),
    onSuccess: (bench) => {
      client.setQueryData(benchQuery(picture, size).queryKey, bench);
      void client.invalidateQueries({ queryKey: ["history", picture] });
    },
    onError: () => void client.invalidateQueries({ queryKey: ["bench", picture] }),
  });
}

export function useAnswer(key: readonly unknown[], picture: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ finding, ...body }: { finding: number; answer?: Answer; words?: string }) =>
      data(api.POST("/api/findings/{id}/answer/", { params: { path: { id: finding } }, body })),
    onSuccess: (said) => {
      client.setQueryData<CellDetail>(
        key,
        (old) =>
          old && {
            ...old,
            findings: old.findings.map((finding) =>
              finding.id === said.id
                ? { ...finding, answer: said.answer, words: said.words }
                : finding,
            ),
          },
      );
      void client.invalidateQueries({ queryKey: ["bench", picture] });
      void client.invalidateQueries({ queryKey: ["history", picture] });
    },
  });
}

export function useAnswerOutside(picture: number, size: number | null) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (asked: { attempt: number; number: number; answer: OutsideAnswer }) =>
      data(
        api.POST("/api/attempts/{id}/outside/", {
          params: { path: { id: asked.attempt }, query: size === null ? {} : { size } },
          body: { number: asked.number, answer: asked.answer },
        }),
      ),
    onSuccess: (bench) => {
      client.setQueryData(benchQuery(picture, size).queryKey, bench);
      void client.invalidateQueries({ queryKey: ["history", picture] });
      void client.invalidateQueries({ queryKey: ["desk"] });
      void client.invalidateQueries({ queryKey: ["signing", picture] });
    },
  });
}

export function useAskCheck(picture: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (attempt: number) =>
      data(api.POST("/api/attempts/{id}/check/", { params: { path: { id: attempt } } })),
    onSuccess: () => void client.invalidateQueries({ queryKey: ["bench", picture] }),
  });
}

export const jobsQuery = queryOptions({
  queryKey: ["jobs"],
  queryFn: () => data(api.GET("/api/jobs/")),
});
export const colleaguesQuery = queryOptions({
  queryKey: ["colleagues"],
  queryFn: () => data(api.GET("/api/colleagues/")),
});
export function intakeQuery(job: number) {
  return queryOptions({
    queryKey: ["intake", job],
    queryFn: () => data(api.GET("/api/jobs/{id}/intake/", { params: { path: { id: job } } })),
    refetchInterval: (query) =>
      query.state.data?.arrivals.some((one) => one.state === "reading") ? 500 : false,
  });
}

/** Whether a result belongs to an original; the answer never changes for the same two files. */
export function fitQuery(
  job: number,
  original: { arrival: number | null; picture: number | null },
  result: number,
) {
  return queryOptions({
    queryKey: ["fit", job, original.arrival, original.picture, result],
    queryFn: () =>
      data(
        api.POST("/api/jobs/{id}/fit/", {
          params: { path: { id: job } },
          body: { original: original.arrival, picture: original.picture, result },
        }),
      ),
    staleTime: Infinity,
    refetchInterval: (query) => (query.state.data?.state === "working" ? 700 : false),
  });
}

/** Wait until something that is being brought in is stored, or refused. */
export async function broughtIn(
  asked: Shapes["BroughtIn"],
  progress: (part: number) => void,
): Promise<Shapes["BroughtIn"] & { picture: number }> {
  let found = asked;
  while (found.state === "working") {
    await new Promise((resolve) => setTimeout(resolve, 400));
    found = await data(api.GET("/api/incoming/{id}/", { params: { path: { id: asked.id } } }));
    progress(found.progress);
  }
  if (found.picture === null) throw new ApiError(400, found.reason);
  return { ...found, picture: found.picture };
}

export function useMakeJob() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Shapes["JobAskedRequest"]) => data(api.POST("/api/jobs/", { body })),
    onSuccess: () => {
      for (const key of ["jobs", "session"]) void client.invalidateQueries({ queryKey: [key] });
    },
  });
}
