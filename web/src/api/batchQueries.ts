import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, taken } from "./client";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type Batch = Schemas["BatchOut"];
export type WatchedFolder = Schemas["WatchedOut"];
export type BatchWish = Schemas["BatchIn"];
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

export function usePlan(wish: BatchWish, wanted: boolean) {
  return useQuery({
    queryKey: ["plan", wish],
    enabled: wanted && (wish.conditions?.length ?? 0) + (wish.outputs?.length ?? 0) > 0,
    placeholderData: keepPreviousData,
    queryFn: () => taken(api.POST("/api/batches/plan", { params: { query: { limit: 200 } }, body: wish })),
  });
}

export function useBatchActions() {
  const queries = useQueryClient();
  const onSettled = () => {
    queries.invalidateQueries({ queryKey: ["batches"] });
    queries.invalidateQueries({ queryKey: ["runs"] });
  };
  const ask = useMutation({
    mutationFn: (body: BatchWish) => taken(api.POST("/api/batches", { body })),
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
  return { add, switchOn, remove };
}
