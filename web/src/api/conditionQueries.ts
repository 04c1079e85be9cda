import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Recipe, type RecipeState, taken, upload } from "./client";

const place = (artworkId: number, slug: string) => ({ path: { artwork_id: artworkId, slug } });

export function useDisplayGap(slug: string, display: string, substrate: boolean) {
  return useQuery({
    queryKey: ["display-gap", slug, display, substrate],
    queryFn: () =>
      taken(
        api.POST("/api/bench/conditions/{slug}/display-gap", {
          params: { path: { slug } },
          body: { display, substrate },
        }),
      ),
    staleTime: Infinity,
  });
}

/** Hulls of conditions and RGB spaces; shares are of the first. */
export function useGamuts(keys: string[]) {
  return useQuery({
    queryKey: ["gamuts", keys],
    enabled: keys.length > 0,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    queryFn: () => taken(api.GET("/api/conditions/gamuts", { params: { query: { of: keys.join(",") } } })),
  });
}

/** What is kept for an artwork in a condition, for those who only look. */
export function useKeptRecipe(artworkId: number, slug: string) {
  return useQuery({
    queryKey: ["recipe", artworkId, slug],
    enabled: artworkId > 0 && slug !== "",
    queryFn: async () =>
      (await taken(
        api.GET("/api/bench/{artwork_id}/{slug}/recipe", { params: place(artworkId, slug) }),
      )) as RecipeState,
  });
}

export function useCloud(artworkId: number, slug: string, recipe: Recipe | undefined) {
  return useQuery({
    queryKey: ["cloud", artworkId, slug, recipe],
    enabled: recipe !== undefined && artworkId > 0,
    queryFn: () =>
      taken(
        api.POST("/api/bench/{artwork_id}/{slug}/cloud", {
          params: place(artworkId, slug),
          body: { recipe: recipe as Recipe, tolerance: 3 },
        }),
      ),
  });
}

export function useJudgement(slug: string) {
  return useQuery({
    queryKey: ["judgement", slug],
    staleTime: Infinity,
    queryFn: () => taken(api.GET("/api/conditions/{slug}/judgement", { params: { path: { slug } } })),
  });
}

export function useSetStatus() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ slug, status }: { slug: string; status: "draft" | "trusted" | "out of date" }) =>
      taken(api.PUT("/api/conditions/{slug}/status", { params: { path: { slug } }, body: { status } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["conditions"] }),
  });
}

export function useRemoveCondition() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (slug: string) => taken(api.DELETE("/api/conditions/{slug}", { params: { path: { slug } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["conditions"] }),
  });
}

/** A condition from a file: an ICC profile at once, measurements by a run. */
export function useTakeInCondition() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (file: File) =>
      upload<{ slug: string | null; run_id: number | null }>(file, () => undefined, "/api/conditions"),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["conditions"] });
      void queries.invalidateQueries({ queryKey: ["runs"] });
    },
  });
}
