import { keepPreviousData, useMutation, useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { chosenPoints } from "./chosenPoints";
import { api, taken, upload } from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type ColorList = Schemas["ListOut"];
export type Step = Schemas["Step"];
export type KeptRoute = Schemas["RouteOut"];
export type Travelled = Schemas["TravelOut"];
export type ColorRow = Schemas["RowOut"];
export type Between = Schemas["Between"];
export type ProofAsked = Schemas["ProofIn"];
export type Points = Schemas["PointsOut"];
export type Proof = Schemas["ProofOut"];

/** Which rows of a list along a route, and between which columns ΔE00 is told. */
export interface TravelAsked {
  list_id: number;
  steps: Step[];
  first: number;
  second: number;
  light: Schemas["TravelIn"]["light"];
  sort: string;
  descending: boolean;
  search: string;
  over: number;
}

export const ROWS_AT_ONCE = 100;

export function useColorLists() {
  return useQuery({ queryKey: ["color lists"], queryFn: () => taken(api.GET("/api/colors/lists")) });
}

/** The colors of a list as spot inks of a policy. */
export function useSpotsOfList() {
  return useMutation({
    mutationFn: (id: number) =>
      taken(api.GET("/api/colors/lists/{list_id}/spots", { params: { path: { list_id: id } } })),
  });
}

export function useRoutes() {
  return useQuery({
    queryKey: ["routes"],
    // Points of curves are pairs; what answers are typed by does not say so.
    queryFn: () => taken(api.GET("/api/colors/routes")),
  });
}

function travel(asked: TravelAsked, page: number) {
  return {
    queryKey: ["travel", asked, page],
    placeholderData: keepPreviousData,
    queryFn: () =>
      taken(
        api.POST("/api/colors/travel", {
          body: { ...asked, offset: page * ROWS_AT_ONCE, limit: ROWS_AT_ONCE },
        }),
      ),
  };
}

/** The first rows, with columns and figures. */
export function useTravel(asked: TravelAsked | undefined) {
  const empty: TravelAsked = {
    list_id: 0,
    steps: [],
    first: 0,
    second: 0,
    light: "D50",
    sort: "given",
    descending: false,
    search: "",
    over: 0,
  };
  return useQuery({ ...travel(asked ?? empty, 0), enabled: asked !== undefined });
}

/** Pages of rows that are in view; those of an earlier order, or light, stay (`stale`) until the new ones are there. */
export function useRowPages(asked: TravelAsked, pages: number[]) {
  const columns = JSON.stringify([asked.list_id, asked.steps]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: rows of other columns would not fit into these
  const kept = useMemo(() => new Map<number, Travelled>(), [columns]);
  const found = useQueries({
    queries: pages.map((page) => ({ ...travel(asked, page), placeholderData: undefined })),
  });
  const loaded = pages.map((page, at) => {
    const told = found[at]?.data;
    if (told) kept.set(page, told);
    return told ?? kept.get(page);
  });
  return { loaded, stale: found.some((each) => each.isPending) };
}

/** The colors between two places of the list as it is sorted and searched, loaded or not. */
export function rowsBetween(asked: TravelAsked, first: number, until: number) {
  return taken(api.POST("/api/colors/rows", { body: { ...asked, offset: first, until, limit: 1 } }));
}

/** Colors in space: the chosen rows, or all that search and `over` leave. Of a list whose points are all here no chosen ones
 * are asked for. */
export function useColorPoints(asked: TravelAsked | undefined, rows: number[]) {
  const queries = useQueryClient();
  // In space the order of the list counts for nothing, and of chosen rows neither does what is searched for.
  const all = asked && { ...asked, sort: "given", descending: false };
  const whole = all && { ...all, search: "", over: 0 };
  const key = (of: TravelAsked | undefined, chosen: number[]) => ["points", of, chosen];
  return useQuery({
    queryKey: rows.length ? key(whole, rows) : key(all, []),
    enabled: asked !== undefined,
    placeholderData: keepPreviousData,
    queryFn: () => {
      const here = rows.length ? queries.getQueryData<Points>(key(whole, [])) : undefined;
      if (here?.complete) return chosenPoints(here, rows);
      const body = { ...((rows.length ? whole : all) as TravelAsked), rows, offset: 0, limit: 1 };
      return taken(api.POST("/api/colors/points", { body }));
    },
  });
}

export function useListActions() {
  const queries = useQueryClient();
  const onSettled = () => queries.invalidateQueries({ queryKey: ["color lists"] });
  const importFile = useMutation({
    mutationFn: (file: File) => upload<ColorList>(file, () => undefined, "/api/colors/lists"),
    onSettled,
  });
  const type = useMutation({
    mutationFn: (body: { name: string; text: string }) =>
      taken(api.POST("/api/colors/lists/typed", { body })),
    onSettled,
  });
  const sample = useMutation({
    mutationFn: (body: Schemas["SampleIn"]) => taken(api.POST("/api/colors/lists/sampled", { body })),
    onSettled,
  });
  const grid = useMutation({
    mutationFn: (body: Schemas["GridIn"]) => taken(api.POST("/api/colors/lists/grid", { body })),
    onSettled,
  });
  const remove = useMutation({
    mutationFn: (id: number) =>
      taken(api.DELETE("/api/colors/lists/{list_id}", { params: { path: { list_id: id } } })),
    onSettled,
  });
  const pins = useMutation({
    mutationFn: (artwork_id: number) => taken(api.POST("/api/colors/lists/pins", { body: { artwork_id } })),
    onSettled,
  });
  return { importFile, type, sample, pins, grid, remove };
}

export function useRouteActions() {
  const queries = useQueryClient();
  const onSettled = () => queries.invalidateQueries({ queryKey: ["routes"] });
  const keep = useMutation({
    mutationFn: ({ id, ...body }: { id?: number; name: string; steps: Step[]; version: number }) =>
      id === undefined
        ? taken(api.POST("/api/colors/routes", { body }))
        : taken(api.PUT("/api/colors/routes/{route_id}", { params: { path: { route_id: id } }, body })),
    onSettled,
  });
  const remove = useMutation({
    mutationFn: (id: number) =>
      taken(api.DELETE("/api/colors/routes/{route_id}", { params: { path: { route_id: id } } })),
    onSettled,
  });
  const write = useMutation({
    mutationFn: async (body: Schemas["WriteIn"]) => {
      const { data, error, response } = await api.POST("/api/colors/write", { body, parseAs: "blob" });
      if (!data)
        throw new Error(String((error as { detail?: string } | undefined)?.detail ?? response.statusText));
      const link = document.createElement("a");
      link.href = URL.createObjectURL(data as unknown as Blob);
      link.download = `${body.name}.icc`;
      link.click();
      setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
      return response.headers.get("X-Plinto-Fit") ?? "";
    },
  });
  return { keep, remove, write };
}

/** A proofing system judged. What was found stays while it is judged by other tolerances. */
export function useProof(asked: ProofAsked) {
  return useQuery({
    queryKey: ["proof", asked],
    queryFn: () => taken(api.POST("/api/colors/proof", { body: asked })),
    placeholderData: keepPreviousData,
  });
}
