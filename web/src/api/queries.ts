import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import {
  type Adjustment,
  type Artwork,
  api,
  type Differences,
  type Hit,
  type HouseRules,
  type InkFigures,
  type Loss,
  type NamedAdjustment,
  type NewVersion,
  type PaletteRow,
  type Recipe,
  type RecipeState,
  type RuleSet,
  type Run,
  type ToneTable,
  taken,
  upload,
} from "./client";

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

export function useRuns() {
  return useQuery({
    queryKey: ["runs"],
    queryFn: () => taken(api.GET("/api/runs")),
    refetchInterval: (query) => (query.state.data?.some(moving) ? 400 : 8000),
  });
}

export function useAskRun() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { artwork_id: number; condition: string; recipe: Recipe }) =>
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
    enabled: recipe !== undefined,
    placeholderData: keepPreviousData,
    // The client library widens pairs to lists; the server's description has them as pairs.
    queryFn: async () =>
      (await taken(
        api.POST("/api/bench/{artwork_id}/{slug}/differences", {
          params: place(artworkId, slug),
          body: { recipe: recipe as Recipe, tolerance },
        }),
      )) as Differences,
  });
}

export function useInkFigures(artworkId: number, slug: string, recipe: Recipe | undefined) {
  return useQuery({
    queryKey: ["ink", artworkId, slug, recipe],
    enabled: recipe !== undefined,
    placeholderData: keepPreviousData,
    queryFn: async () =>
      (await taken(
        api.POST("/api/bench/{artwork_id}/{slug}/ink", {
          params: place(artworkId, slug),
          body: { recipe: recipe as Recipe, tolerance: 3 },
        }),
      )) as InkFigures,
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
    enabled: recipe !== undefined && points.length > 0,
    placeholderData: keepPreviousData,
    queryFn: () =>
      taken(
        api.POST("/api/bench/{artwork_id}/{slug}/trace", {
          params: place(artworkId, slug),
          body: { recipe: recipe as Recipe, points },
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

type FiguresPath =
  | "/api/bench/{artwork_id}/{slug}/loss"
  | "/api/bench/{artwork_id}/{slug}/hits"
  | "/api/bench/{artwork_id}/{slug}/histogram";

/** Figures of a recipe that are only asked for while somebody looks at them. */
function useFigures<T>(
  path: FiguresPath,
  artworkId: number,
  slug: string,
  recipe: Recipe | undefined,
  tolerance: number,
  looked: boolean,
) {
  return useQuery({
    queryKey: [path, artworkId, slug, recipe, tolerance],
    enabled: looked && recipe !== undefined,
    placeholderData: keepPreviousData,
    queryFn: async () =>
      (await taken(
        api.POST(path, {
          params: place(artworkId, slug),
          body: { recipe: recipe as Recipe, tolerance },
        }),
      )) as T,
  });
}

export function useLoss(id: number, slug: string, recipe: Recipe | undefined, tolerance: number) {
  const looked = recipe !== undefined && recipe.ink.without.length > 0;
  return useFigures<Loss>("/api/bench/{artwork_id}/{slug}/loss", id, slug, recipe, tolerance, looked);
}

export function useHits(
  id: number,
  slug: string,
  recipe: Recipe | undefined,
  tolerance: number,
  looked: boolean,
) {
  return useFigures<Hit[]>("/api/bench/{artwork_id}/{slug}/hits", id, slug, recipe, tolerance, looked);
}

export function useHistogram(id: number, slug: string, recipe: Recipe) {
  // It shows the artwork unadjusted: only the source can change it.
  const plain = { ...recipe, adjust: { ...recipe.adjust, regions: [] } };
  return useQuery({
    queryKey: ["histogram", id, recipe.source],
    placeholderData: keepPreviousData,
    queryFn: async () =>
      (await taken(
        api.POST("/api/bench/{artwork_id}/{slug}/histogram", {
          params: place(id, slug),
          body: { recipe: plain, tolerance: 3 },
        }),
      )) as Record<string, number[]>,
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
    enabled: recipe !== undefined && text.trim() !== "",
    placeholderData: keepPreviousData,
    queryFn: async () =>
      (await taken(
        api.POST("/api/bench/{artwork_id}/{slug}/palette", {
          params: place(id, slug),
          body: { recipe: recipe as Recipe, text, tolerance },
        }),
      )) as PaletteRow[],
  });
}

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

export function useProfiles() {
  return useQuery({ queryKey: ["profiles"], queryFn: () => taken(api.GET("/api/house/profiles")) });
}

export function useTakeInProfile() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (file: File) =>
      upload<{ sha256: string; name: string; space: string }>(file, () => undefined, "/api/house/profiles"),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["profiles"] }),
  });
}

export function useVersions(artwork: Artwork) {
  return useQuery({
    queryKey: ["versions", artwork.id, artwork.version],
    queryFn: () =>
      taken(api.GET("/api/artworks/{artwork_id}/versions", { params: { path: { artwork_id: artwork.id } } })),
  });
}

/** New versions of an artwork, and going back and forth between them. */
export function useVersioning(artworkId: number) {
  const queries = useQueryClient();
  const path = { artwork_id: artworkId };
  const done = (artwork: Artwork) => {
    queries.setQueryData(["artworks", artworkId], artwork);
    // Every picture and figure was made of the version before.
    for (const stale of ["versions", "differences", "ink", "trace", "histogram"])
      void queries.invalidateQueries({ queryKey: [stale] });
    void queries.invalidateQueries({ queryKey: ["artworks"], exact: true });
  };
  const add = useMutation({
    mutationFn: (body: Partial<NewVersion> & Pick<NewVersion, "action">) =>
      taken(
        api.POST("/api/artworks/{artwork_id}/versions", { params: { path }, body: body as NewVersion }),
      ) as Promise<Artwork>,
    onSuccess: done,
  });
  const choose = useMutation({
    mutationFn: (number: number) =>
      taken(
        api.POST("/api/artworks/{artwork_id}/version", { params: { path }, body: { number } }),
      ) as Promise<Artwork>,
    onSuccess: done,
  });
  return { add, choose };
}

export function useRuleSets() {
  return useQuery({
    queryKey: ["rules"],
    queryFn: async () => (await taken(api.GET("/api/house/rules"))) as RuleSet[],
  });
}

/** Everything that can be done with sets of house rules. */
export function useHouse() {
  const queries = useQueryClient();
  const onSuccess = () => queries.invalidateQueries({ queryKey: ["rules"] });
  const save = useMutation({
    mutationFn: ({ id, rules }: { id?: number; rules: HouseRules }) =>
      id === undefined
        ? taken(api.POST("/api/house/rules", { body: { rules } }))
        : taken(api.PUT("/api/house/rules/{set_id}", { params: { path: { set_id: id } }, body: { rules } })),
    onSuccess,
  });
  const use = useMutation({
    mutationFn: (id: number) =>
      taken(api.POST("/api/house/rules/{set_id}/use", { params: { path: { set_id: id } } })),
    onSuccess,
  });
  const remove = useMutation({
    mutationFn: (id: number) =>
      taken(api.DELETE("/api/house/rules/{set_id}", { params: { path: { set_id: id } } })),
    onSuccess,
  });
  const bringIn = useMutation({
    mutationFn: (file: File) => upload<{ id: number }>(file, () => undefined, "/api/house/rule-files"),
    onSuccess,
  });
  return { save, use, remove, bringIn };
}

/** Named adjustments of the house. */
export function useAdjustments() {
  const queries = useQueryClient();
  const again = () => queries.invalidateQueries({ queryKey: ["adjustments"] });
  const list = useQuery({
    queryKey: ["adjustments"],
    queryFn: async () => (await taken(api.GET("/api/house/adjustments"))) as NamedAdjustment[],
  });
  const name = useMutation({
    mutationFn: (body: { name: string; adjustment: Adjustment }) =>
      taken(api.POST("/api/house/adjustments", { body })),
    onSuccess: again,
  });
  const forget = useMutation({
    mutationFn: (id: number) =>
      taken(
        api.DELETE("/api/house/adjustments/{adjustment_id}", { params: { path: { adjustment_id: id } } }),
      ),
    onSuccess: again,
  });
  return { list: list.data ?? [], name, forget };
}

export function useToneTable() {
  return useMutation({
    mutationFn: async (body: { kind: "wedge" | "cube"; text: string }) =>
      (await taken(api.POST("/api/bench/tone-tables", { body }))) as ToneTable,
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
