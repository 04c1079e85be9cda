import {
  keepPreviousData,
  queryOptions,
  skipToken,
  useInfiniteQuery,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { type Artwork, api, type Recipe, type Run, taken } from "./client";
import type { components, paths } from "./schema";

export function useSession() {
  return useQuery({
    queryKey: ["session"],
    queryFn: () => taken(api.GET("/api/session")),
    staleTime: Infinity,
  });
}

export function useArtworks() {
  return useQuery({ queryKey: ["artworks"], queryFn: () => taken(api.GET("/api/artworks")) });
}

export function useArtwork(id: number) {
  return useQuery({
    queryKey: ["artworks", id],
    queryFn: () => taken(api.GET("/api/artworks/{artwork_id}", { params: { path: { artwork_id: id } } })),
  });
}

export function useConditions() {
  return useQuery({
    queryKey: ["conditions"],
    queryFn: () => taken(api.GET("/api/conditions")),
    staleTime: 60_000,
  });
}

export function useBlackKinds() {
  return useQuery({
    queryKey: ["black-kinds"],
    queryFn: () => taken(api.GET("/api/bench/black-kinds")),
    staleTime: Infinity,
  });
}

const moving = (run: Run) => run.state === "queued" || run.state === "running";

const MOST_RUNS = 300;
/** Every so often the whole list: what was changed while a clock was set is not missed for ever. */
const WHOLE_EVERY_MS = 60_000;
let wholeAt = 0;

/** The latest runs; after the first time only what has changed is asked for. */
export function useRuns() {
  const queries = useQueryClient();
  return useQuery({
    queryKey: ["runs"],
    queryFn: async () => {
      const known = queries.getQueryData<Run[]>(["runs"]) ?? [];
      const whole = known.length === 0 || Date.now() - wholeAt > WHOLE_EVERY_MS;
      const since = known
        .map((run) => run.changed_at)
        .sort()
        .at(-1);
      const fresh = await taken(api.GET("/api/runs", { params: { query: whole ? {} : { since } } }));
      if (whole) wholeAt = Date.now();
      const merged = new Map([...known, ...fresh].map((run) => [run.id, run]));
      return [...merged.values()].sort((a, b) => b.id - a.id).slice(0, MOST_RUNS);
    },
    refetchInterval: (query) => (query.state.data?.some(moving) ? 600 : 8000),
  });
}

/** Runs before the ones that are listed, a hundred at a time. */
export function useEarlierRuns() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (before: number) => taken(api.GET("/api/runs", { params: { query: { before } } })),
    onSuccess: (earlier) =>
      queries.setQueryData<Run[]>(["earlier runs"], (now) => [...(now ?? []), ...earlier]),
  });
}

type RunQuery = NonNullable<paths["/api/runs"]["get"]["parameters"]["query"]>;
export type RunSearch = Pick<RunQuery, "search" | "state" | "kind">;
const FOUND_AT_ONCE = 100;

/** Runs that fit a search, all of them, a hundred at a time. */
export function useFoundRuns(search: RunSearch) {
  return useInfiniteQuery({
    queryKey: ["runs", "found", search],
    initialPageParam: undefined as number | undefined,
    refetchInterval: 8000,
    queryFn: ({ pageParam }) =>
      taken(
        api.GET("/api/runs", {
          params: { query: { ...search, before: pageParam, limit: FOUND_AT_ONCE } },
        }),
      ),
    getNextPageParam: (last) => (last.length < FOUND_AT_ONCE ? undefined : last.at(-1)?.id),
  });
}

/** The file of a run once more, from its sheet. */
export function useMakeAgain() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (id: number) =>
      taken(api.POST("/api/runs/{run_id}/again", { params: { path: { run_id: id } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["runs"] }),
  });
}

export function useAskRun() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Omit<components["schemas"]["RunIn"], "recipe"> & { recipe: Recipe }) =>
      taken(api.POST("/api/runs", { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["runs"] }),
  });
}

export function useCancelRun() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (id: number) =>
      taken(api.POST("/api/runs/{run_id}/cancel", { params: { path: { run_id: id } } })),
    onSettled: () => queries.invalidateQueries({ queryKey: ["runs"] }),
  });
}

export function useRemoveArtwork() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (artwork: Artwork) =>
      taken(api.DELETE("/api/artworks/{artwork_id}", { params: { path: { artwork_id: artwork.id } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["artworks"] }),
  });
}

const place = (artworkId: number, slug: string) => ({ path: { artwork_id: artworkId, slug } });

export function useDifferences(
  artworkId: number,
  slug: string,
  recipe: Recipe | undefined,
  tolerance: number,
) {
  return useQuery({
    queryKey: ["differences", artworkId, slug, recipe, tolerance],
    placeholderData: keepPreviousData,
    queryFn:
      recipe === undefined
        ? skipToken
        : ({ signal }) =>
            taken(
              api.POST("/api/bench/{artwork_id}/{slug}/differences", {
                params: place(artworkId, slug),
                body: { recipe, tolerance },
                signal,
              }),
            ),
  });
}

/** What inks a recipe takes, as a query that may stand among others. */
export const inkFigures = (artworkId: number, slug: string, recipe: Recipe | undefined, copies: number) =>
  queryOptions({
    queryKey: ["ink", artworkId, slug, recipe, copies],
    queryFn:
      recipe === undefined
        ? skipToken
        : ({ signal }) =>
            taken(
              api.POST("/api/bench/{artwork_id}/{slug}/ink", {
                params: place(artworkId, slug),
                body: { recipe, tolerance: 3, copies },
                signal,
              }),
            ),
  });

export function useInkFigures(artworkId: number, slug: string, recipe: Recipe | undefined, copies: number) {
  return useQuery({
    ...inkFigures(artworkId, slug, recipe, copies),
    placeholderData: keepPreviousData,
  });
}

export function useTrace(
  artworkId: number,
  slug: string,
  recipe: Recipe | undefined,
  points: [number, number][],
) {
  return useQuery({
    queryKey: ["trace", artworkId, slug, recipe, points],
    placeholderData: keepPreviousData,
    queryFn:
      recipe === undefined || points.length === 0
        ? skipToken
        : ({ signal }) =>
            taken(
              api.POST("/api/bench/{artwork_id}/{slug}/trace", {
                params: place(artworkId, slug),
                body: { recipe, points },
                signal,
              }),
            ),
  });
}

export function usePins(artworkId: number) {
  const queries = useQueryClient();
  const path = { artwork_id: artworkId };
  const again = () => queries.invalidateQueries({ queryKey: ["pins", artworkId] });
  const list = useQuery({
    queryKey: ["pins", artworkId],
    queryFn: () => taken(api.GET("/api/bench/{artwork_id}/pins", { params: { path } })),
  });
  const drop = useMutation({
    mutationFn: (body: { x: number; y: number; name: string }) =>
      taken(api.POST("/api/bench/{artwork_id}/pins", { params: { path }, body })),
    onSuccess: again,
  });
  const take = useMutation({
    mutationFn: (id: number) =>
      taken(
        api.DELETE("/api/bench/{artwork_id}/pins/{pin_id}", { params: { path: { ...path, pin_id: id } } }),
      ),
    onSuccess: again,
  });
  return { pins: list.data ?? [], drop, take };
}

/** What leaving inks out costs; asked for where some are left out. */
export function useLoss(id: number, slug: string, recipe: Recipe | undefined, tolerance: number) {
  return useQuery({
    queryKey: ["loss", id, slug, recipe, tolerance],
    placeholderData: keepPreviousData,
    queryFn:
      recipe === undefined || recipe.ink.without.length === 0
        ? skipToken
        : ({ signal }) =>
            taken(
              api.POST("/api/bench/{artwork_id}/{slug}/loss", {
                params: place(id, slug),
                body: { recipe, tolerance },
                signal,
              }),
            ),
  });
}

export function useHits(
  id: number,
  slug: string,
  recipe: Recipe | undefined,
  tolerance: number,
  looked: boolean,
) {
  return useQuery({
    queryKey: ["hits", id, slug, recipe, tolerance],
    placeholderData: keepPreviousData,
    queryFn:
      recipe === undefined || !looked
        ? skipToken
        : ({ signal }) =>
            taken(
              api.POST("/api/bench/{artwork_id}/{slug}/hits", {
                params: place(id, slug),
                body: { recipe, tolerance },
                signal,
              }),
            ),
  });
}

/** It shows the artwork unadjusted: only the source can change it. */
export function useHistogram(id: number, slug: string, recipe: Recipe | undefined) {
  return useQuery({
    queryKey: ["histogram", id, recipe?.source],
    placeholderData: keepPreviousData,
    queryFn:
      recipe === undefined
        ? skipToken
        : ({ signal }) =>
            taken(
              api.POST("/api/bench/{artwork_id}/{slug}/histogram", {
                params: place(id, slug),
                body: { recipe: { ...recipe, adjust: { ...recipe.adjust, regions: [] } }, tolerance: 3 },
                signal,
              }),
            ),
  });
}

export function usePalette(
  id: number,
  slug: string,
  recipe: Recipe | undefined,
  text: string,
  tolerance: number,
) {
  return useQuery({
    queryKey: ["palette", id, slug, recipe, text, tolerance],
    placeholderData: keepPreviousData,
    queryFn:
      recipe === undefined || text.trim() === ""
        ? skipToken
        : ({ signal }) =>
            taken(
              api.POST("/api/bench/{artwork_id}/{slug}/palette", {
                params: place(id, slug),
                body: { recipe, text, tolerance },
                signal,
              }),
            ),
  });
}

export function useToneTable() {
  return useMutation({
    mutationFn: (body: { kind: "wedge" | "cube"; text: string }) =>
      taken(api.POST("/api/bench/tone-tables", { body })),
  });
}
