import { keepPreviousData, skipToken, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { api, type Condition, type Recipe, taken, upload } from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type BuildSettings = Schemas["BuildSettings"];
export type Medium = Schemas["MediumOut"];
export type ControlStrip = Schemas["StripOut"];
export type Tolerances = Schemas["Tolerances"];
export type InkNumbers = Schemas["InkNumbers"];
export type ConditionChange = Schemas["ConditionChange"];

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

/** What is kept for an artwork in a condition, for those who only look; asked again every so many milliseconds. */
export function useKeptRecipe(artworkId: number, slug: string, every_ms?: number) {
  return useQuery({
    queryKey: ["recipe", artworkId, slug],
    enabled: artworkId > 0 && slug !== "",
    refetchInterval: every_ms,
    queryFn: () =>
      taken(api.GET("/api/bench/{artwork_id}/{slug}/recipe", { params: place(artworkId, slug) })),
  });
}

export function useCloud(artworkId: number, slug: string, recipe: Recipe | undefined) {
  return useQuery({
    queryKey: ["cloud", artworkId, slug, recipe],
    queryFn:
      recipe === undefined || artworkId <= 0
        ? skipToken
        : ({ signal }) =>
            taken(
              api.POST("/api/bench/{artwork_id}/{slug}/cloud", {
                params: place(artworkId, slug),
                body: { recipe, tolerance: 3 },
                signal,
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
    mutationFn: ({ slug, ...body }: Schemas["StatusIn"] & { slug: string }) =>
      taken(api.PUT("/api/conditions/{slug}/status", { params: { path: { slug } }, body })),
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

/** A condition with what its characterization said. */
export function useCondition(slug: string) {
  return useQuery({
    queryKey: ["conditions", slug],
    queryFn: () => taken(api.GET("/api/conditions/{slug}", { params: at(slug) })),
  });
}

const at = (slug: string) => ({ path: { slug } });

/** A change of what was looked at: the server says so where somebody changed it meanwhile, and it is read again. */
/** Decisions about a condition, one after the other: who types on does not meet what they themselves just changed. */
export function useChangeCondition(condition: Condition) {
  const queries = useQueryClient();
  const { slug, version: shown } = condition;
  // What this view's last change made of a condition; of two states of one the newer is known.
  const made = useRef({ slug, version: 0 });
  return useMutation({
    scope: { id: `condition ${slug}` },
    mutationFn: (change: ConditionChange) =>
      taken(
        api.PUT("/api/conditions/{slug}", {
          params: at(slug),
          body: {
            change,
            version: made.current.slug === slug ? Math.max(shown, made.current.version) : shown,
          },
        }),
      ),
    onSuccess: (kept) => {
      made.current = { slug, version: kept.version };
    },
    onSettled: () => {
      void queries.invalidateQueries({ queryKey: ["records"] });
      return queries.invalidateQueries({ queryKey: ["conditions"] });
    },
  });
}

export function useMedia() {
  return useQuery({ queryKey: ["media"], queryFn: () => taken(api.GET("/api/conditions/media")) });
}

/** A medium is new without an id. */
export function useSaveMedium() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ id, version, ...medium }: Schemas["MediumData"] & { id?: number; version?: number }) =>
      taken(
        id
          ? api.PUT("/api/conditions/media/{medium_id}", {
              params: { path: { medium_id: id } },
              body: { medium, version: version ?? 0 },
            })
          : api.POST("/api/conditions/media", { body: { medium } }),
      ),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["media"] });
      void queries.invalidateQueries({ queryKey: ["conditions"] });
    },
  });
}

export function useRemoveMedium() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (id: number) =>
      taken(api.DELETE("/api/conditions/media/{medium_id}", { params: { path: { medium_id: id } } })),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["media"] });
      void queries.invalidateQueries({ queryKey: ["conditions"] });
    },
  });
}

export function usePresets() {
  return useQuery({
    queryKey: ["presets"],
    staleTime: Infinity,
    queryFn: () => taken(api.GET("/api/conditions/presets")),
  });
}

/** The house's own presets: saved and removed, each with a history. */
export function usePresetActions() {
  const queries = useQueryClient();
  const onSettled = () => {
    void queries.invalidateQueries({ queryKey: ["records"] });
    return queries.invalidateQueries({ queryKey: ["presets"] });
  };
  const save = useMutation({
    mutationFn: (body: Schemas["PresetIn"]) => taken(api.POST("/api/conditions/presets", { body })),
    onSettled,
  });
  const remove = useMutation({
    mutationFn: (name: string) =>
      taken(api.DELETE("/api/conditions/presets", { params: { query: { name } } })),
    onSettled,
  });
  return { save, remove };
}

export function useBuildSettings(slug: string) {
  return useQuery({
    queryKey: ["build-settings", slug],
    enabled: slug !== "",
    staleTime: Infinity,
    queryFn: () => taken(api.GET("/api/conditions/{slug}/build-settings", { params: at(slug) })),
  });
}

/** What settings would give; the last answer stays while the next one comes. */
export function useVariant(slug: string, settings: BuildSettings | undefined) {
  return useQuery({
    queryKey: ["variant", slug, settings?.limits, settings?.black],
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    queryFn:
      settings === undefined
        ? skipToken
        : () => taken(api.POST("/api/conditions/{slug}/variant", { params: at(slug), body: { settings } })),
  });
}

export function useBuild(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (settings: BuildSettings) =>
      taken(api.POST("/api/conditions/{slug}/build", { params: at(slug), body: { settings } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["runs"] }),
  });
}

export function useStrips(slug: string) {
  return useQuery({
    queryKey: ["strips", slug],
    queryFn: () => taken(api.GET("/api/conditions/{slug}/strips", { params: at(slug) })),
  });
}

export function useStripActions(slug: string) {
  const queries = useQueryClient();
  const done = () => {
    void queries.invalidateQueries({ queryKey: ["records"] });
    void queries.invalidateQueries({ queryKey: ["strips", slug] });
    void queries.invalidateQueries({ queryKey: ["conditions"] });
  };
  const load = useMutation({
    mutationFn: (file: File) => upload<ControlStrip>(file, () => undefined, `/api/conditions/${slug}/strips`),
    onSuccess: done,
  });
  const measure = useMutation({
    mutationFn: () => taken(api.POST("/api/conditions/{slug}/strips/measured", { params: at(slug) })),
    onSuccess: done,
  });
  const forget = useMutation({
    mutationFn: (strip_id: number) =>
      taken(api.DELETE("/api/conditions/{slug}/strips/{strip_id}", { params: { path: { slug, strip_id } } })),
    onSuccess: done,
  });
  const setTolerances = useMutation({
    mutationFn: (body: { tolerances: Tolerances; version: number }) =>
      taken(api.PUT("/api/conditions/{slug}/tolerances", { params: at(slug), body })),
    onSettled: done,
  });
  return {
    load,
    measure,
    forget,
    setTolerances,
    error: load.error ?? measure.error ?? forget.error ?? setTolerances.error,
  };
}

export function useProfileFacts(slug: string) {
  return useQuery({
    queryKey: ["facts", slug],
    enabled: slug !== "",
    staleTime: Infinity,
    queryFn: () => taken(api.GET("/api/conditions/{slug}/facts", { params: at(slug) })),
  });
}

export function useThrough(
  slug: string,
  body: { values: number[][]; to_lab: boolean; intent: string; beside: string },
) {
  return useQuery({
    queryKey: ["through", slug, body],
    enabled: body.values.length > 0,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () => taken(api.POST("/api/conditions/{slug}/through", { params: at(slug), body })),
  });
}

/** What a supplier's numbers come to, while they are typed. */
export function useNumbersLook(numbers: InkNumbers | undefined) {
  return useQuery({
    queryKey: ["numbers", numbers],
    placeholderData: keepPreviousData,
    retry: false,
    queryFn:
      numbers === undefined
        ? skipToken
        : () => taken(api.POST("/api/conditions/numbers/look", { body: { numbers } })),
  });
}

export function useNumbersActions() {
  const queries = useQueryClient();
  const onSettled = () => queries.invalidateQueries({ queryKey: ["runs"] });
  const make = useMutation({
    mutationFn: (body: Schemas["NumbersIn"]) => taken(api.POST("/api/conditions/numbers/make", { body })),
    onSettled,
  });
  const correct = useMutation({
    mutationFn: ({ slug, file }: { slug: string; file: File }) =>
      upload<{ run_id: number }>(file, () => undefined, `/api/conditions/${slug}/numbers/correct`),
    onSettled,
  });
  /** A file that was exported here; the server says what is wrong with it. */
  const read = useMutation({
    mutationFn: async (file: File) => {
      let numbers: Schemas["NumbersIn"]["numbers"];
      try {
        numbers = JSON.parse(await file.text());
      } catch {
        throw new Error(`'${file.name}' is no JSON. Export numbers from Plinto, and import that.`);
      }
      return (await taken(api.POST("/api/conditions/numbers/look", { body: { numbers } }))).numbers;
    },
  });
  return { make, correct, read };
}
