import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import {
  type Adjustment,
  type Artwork,
  api,
  type HouseRules,
  type NewVersion,
  taken,
  upload,
} from "./client";
import type { components } from "./schema";

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

const MOVING = ["queued", "running"];
const ASK_AGAIN_MS = 300;

/** The artwork once the run that makes its version is through; an error in the run's words where it came to nothing. */
async function reworked(
  run: { id: number; state: string; message: string },
  artworkId: number,
): Promise<Artwork> {
  let now = run;
  while (MOVING.includes(now.state)) {
    await new Promise((again) => setTimeout(again, ASK_AGAIN_MS));
    now = await taken(api.GET("/api/runs/{run_id}", { params: { path: { run_id: run.id } } }));
  }
  if (now.state !== "done") throw new Error(now.message);
  return await taken(api.GET("/api/artworks/{artwork_id}", { params: { path: { artwork_id: artworkId } } }));
}

/** New versions of an artwork, and going back and forth between them. */
export function useVersioning(artworkId: number) {
  const queries = useQueryClient();
  const path = { artwork_id: artworkId };
  const done = (artwork: Artwork) => {
    queries.setQueryData(["artworks", artworkId], artwork);
    // Every picture and figure was made of the version before.
    for (const stale of [
      "versions",
      "differences",
      "ink",
      "trace",
      "histogram",
      "loss",
      "hits",
      "palette",
      "cloud",
    ])
      void queries.invalidateQueries({ queryKey: [stale] });
    void queries.invalidateQueries({ queryKey: ["artworks"], exact: true });
  };
  const add = useMutation({
    mutationFn: (body: NewVersion) =>
      taken(api.POST("/api/artworks/{artwork_id}/versions", { params: { path }, body })).then((answer) =>
        "state" in answer ? reworked(answer, artworkId) : answer,
      ),
    onSuccess: done,
  });
  const choose = useMutation({
    mutationFn: (number: number) =>
      taken(api.POST("/api/artworks/{artwork_id}/version", { params: { path }, body: { number } })),
    onSuccess: done,
  });
  return { add, choose };
}

export function useRuleSets() {
  return useQuery({
    queryKey: ["rules"],
    queryFn: () => taken(api.GET("/api/house/rules")),
  });
}

/** Everything that can be done with sets of house rules. */
export function useHouse() {
  const queries = useQueryClient();
  const onSuccess = () => {
    void queries.invalidateQueries({ queryKey: ["records"] });
    return queries.invalidateQueries({ queryKey: ["rules"] });
  };
  const save = useMutation({
    mutationFn: ({ id, rules, version = 0 }: { id?: number; rules: HouseRules; version?: number }) =>
      id === undefined
        ? taken(api.POST("/api/house/rules", { body: { rules } }))
        : taken(
            api.PUT("/api/house/rules/{set_id}", {
              params: { path: { set_id: id } },
              body: { rules, version },
            }),
          ),
    // Refused or not, it is read again: somebody else may have been faster.
    onSettled: onSuccess,
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
    queryFn: () => taken(api.GET("/api/house/adjustments")),
  });
  const name = useMutation({
    mutationFn: (body: { name: string; adjustment: Adjustment; version: number }) =>
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

export type KeptSettings = components["schemas"]["KeptOut"];
type KeptStation = KeptSettings["station"];

/** Settings of a station, or recipes, that the house keeps under names. */
export function useKeptSettings(station: KeptStation) {
  const queries = useQueryClient();
  const again = () => queries.invalidateQueries({ queryKey: ["kept settings"] });
  const all = useQuery({
    queryKey: ["kept settings"],
    queryFn: () => taken(api.GET("/api/house/settings")),
  });
  const save = useMutation({
    mutationFn: (body: components["schemas"]["KeptIn"]) => taken(api.POST("/api/house/settings", { body })),
    onSuccess: again,
  });
  const remove = useMutation({
    mutationFn: (id: number) =>
      taken(api.DELETE("/api/house/settings/{settings_id}", { params: { path: { settings_id: id } } })),
    onSuccess: again,
  });
  const importFile = useMutation({
    mutationFn: (file: File) => upload<KeptSettings>(file, () => undefined, "/api/house/settings/file"),
    onSuccess: again,
  });
  return { list: all.data?.filter((each) => each.station === station) ?? [], save, remove, importFile };
}
