import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, taken } from "./client";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type Batch = Schemas["BatchOut"];
export type WatchedFolder = Schemas["WatchedOut"];
export type BatchAsked = Schemas["BatchIn"];
export type PlannedFile = Schemas["PlannedOut"];
export type PlannedInk = Schemas["PlannedInkOut"];
type Act = "pause" | "resume" | "cancel" | "retry";
export type ItemState = NonNullable<
  NonNullable<paths["/api/batches/{batch_id}/items"]["get"]["parameters"]["query"]>["state"]
>;

const underWay = (batch: Batch) =>
  ["waiting", "queued", "running"].some((state) => (batch.counts[state] ?? 0) > 0);

export function useBatches() {
  return useQuery({
    queryKey: ["batches"],
    queryFn: () => taken(api.GET("/api/batches", { params: { query: {} } })),
    refetchInterval: (query) => (query.state.data?.some(underWay) ? 1500 : 15_000),
  });
}

export function useBatchItems(batch: Batch, state: ItemState, limit: number, open: boolean) {
  return useQuery({
    queryKey: ["batches", batch.id, "items", state, limit, batch.counts],
    enabled: open,
    placeholderData: keepPreviousData,
    queryFn: () =>
      taken(
        api.GET("/api/batches/{batch_id}/items", {
          params: { path: { batch_id: batch.id }, query: { state, limit } },
        }),
      ),
  });
}

export function usePlan(asked: BatchAsked, wanted: boolean) {
  return useQuery({
    queryKey: ["plan", asked],
    enabled: wanted && (asked.conditions?.length ?? 0) + (asked.outputs?.length ?? 0) > 0,
    placeholderData: keepPreviousData,
    queryFn: () => taken(api.POST("/api/batches/plan", { params: { query: { limit: 200 } }, body: asked })),
  });
}

/** How many files' ink is measured at a time: the others' connections are wanted for what is looked at. */
const AT_ONCE = 2;

export const separationOf = (file: PlannedFile) => `${file.artwork_id} ${file.slug}`;

/** The ink of separations that are planned, by `separationOf`, one after the other once it is wanted. */
export function usePlannedInk(files: PlannedFile[], recipe: BatchAsked["recipe"], wanted: boolean) {
  const queries = useQueryClient();
  const [found, setFound] = useState<Record<string, PlannedInk | Error>>({});
  const list = files.filter((file) => file.artwork_id !== null && !file.problem);
  const asked = JSON.stringify([wanted, recipe, list.map(separationOf)]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: `asked` says all of it
  useEffect(() => {
    let gone = false;
    setFound({});
    const waiting = wanted ? [...list] : [];
    async function next(): Promise<void> {
      const file = waiting.shift();
      if (!file || gone) return;
      const ink = await queries
        .fetchQuery({
          queryKey: ["planned-ink", file.artwork_id, file.slug, recipe],
          staleTime: 60_000,
          queryFn: () =>
            taken(
              api.POST("/api/batches/plan/ink", {
                body: { artwork: file.artwork_id as number, condition: file.slug, recipe },
              }),
            ),
        })
        .catch((error: Error) => error);
      if (!gone) setFound((before) => ({ ...before, [separationOf(file)]: ink }));
      return next();
    }
    for (let at = 0; at < AT_ONCE; at++) void next();
    return () => {
      gone = true;
    };
  }, [asked]);
  return { found, done: Object.keys(found).length, of: list.length };
}

export function useBatchActions() {
  const queries = useQueryClient();
  const onSettled = () => {
    queries.invalidateQueries({ queryKey: ["batches"] });
    queries.invalidateQueries({ queryKey: ["runs"] });
  };
  const ask = useMutation({
    mutationFn: (body: BatchAsked) => taken(api.POST("/api/batches", { body })),
    onSettled,
  });
  const act = useMutation({
    mutationFn: ({ id, what }: { id: number; what: Act }) =>
      taken(api.POST(`/api/batches/{batch_id}/${what}`, { params: { path: { batch_id: id } } })),
    onSettled,
  });
  const prioritize = useMutation({
    mutationFn: ({ id, priority }: { id: number; priority: number }) =>
      taken(
        api.POST("/api/batches/{batch_id}/priority", {
          params: { path: { batch_id: id } },
          body: { priority },
        }),
      ),
    onSettled,
  });
  const remove = useMutation({
    mutationFn: (id: number) =>
      taken(api.DELETE("/api/batches/{batch_id}", { params: { path: { batch_id: id } } })),
    onSettled,
  });
  return { ask, act, prioritize, remove };
}

export function useWatched() {
  return useQuery({
    queryKey: ["watched"],
    queryFn: () => taken(api.GET("/api/batches/watched")),
    refetchInterval: 5000,
  });
}

export function useWatchedActions() {
  const queries = useQueryClient();
  const onSettled = () => queries.invalidateQueries({ queryKey: ["watched"] });
  const add = useMutation({
    mutationFn: (body: Schemas["WatchedIn"]) => taken(api.POST("/api/batches/watched", { body })),
    onSettled,
  });
  const change = useMutation({
    mutationFn: ({ id, body }: { id: number; body: Schemas["WatchedChange"] }) =>
      taken(api.PUT("/api/batches/watched/{folder_id}", { params: { path: { folder_id: id } }, body })),
    onSettled,
  });
  const switchOn = useMutation({
    mutationFn: ({ id, on }: { id: number; on: boolean }) =>
      taken(
        api.POST("/api/batches/watched/{folder_id}/active", {
          params: { path: { folder_id: id }, query: { on } },
        }),
      ),
    onSettled,
  });
  const remove = useMutation({
    mutationFn: (id: number) =>
      taken(api.DELETE("/api/batches/watched/{folder_id}", { params: { path: { folder_id: id } } })),
    onSettled,
  });
  return { add, change, switchOn, remove };
}
