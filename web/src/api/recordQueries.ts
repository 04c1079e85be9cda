import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, taken } from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type Revision = Schemas["RevisionOut"];
export type Person = Schemas["PersonOut"];
export type Role = Schemas["Role"];

const REVISIONS_AT_ONCE = 100;

/** Changes of one thing, of a kind or of everything, the latest first, a hundred at a time. */
export function useHistory(kind: string, key?: string) {
  return useInfiniteQuery({
    queryKey: ["records", kind, key],
    initialPageParam: undefined as number | undefined,
    queryFn: ({ pageParam }) =>
      taken(api.GET("/api/records", { params: { query: { kind, key: key ?? "", before: pageParam } } })),
    getNextPageParam: (last) => (last.length < REVISIONS_AT_ONCE ? undefined : last.at(-1)?.id),
    select: ({ pages }) => pages.flat(),
  });
}

/** Put a shared thing back as it was. */
export function useGoBack() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["BackIn"]) => taken(api.POST("/api/records/back", { body })),
    // Whatever it was, it may be shown in any room.
    onSettled: () => queries.invalidateQueries(),
  });
}

export function usePeople(enabled = true) {
  return useQuery({ queryKey: ["people"], queryFn: () => taken(api.GET("/api/people")), enabled });
}

export function usePeopleActions() {
  const queries = useQueryClient();
  const onSettled = () => {
    void queries.invalidateQueries({ queryKey: ["people"] });
    void queries.invalidateQueries({ queryKey: ["records"] });
  };
  const add = useMutation({
    mutationFn: (body: Schemas["PersonIn"]) => taken(api.POST("/api/people", { body })),
    onSettled,
  });
  const change = useMutation({
    mutationFn: ({ id, ...body }: Schemas["PersonChange"] & { id: number }) =>
      taken(api.PUT("/api/people/{user_id}", { params: { path: { user_id: id } }, body })),
    onSettled,
  });
  return { add, change };
}

export function useOwnPassword() {
  return useMutation({
    mutationFn: (body: Schemas["PasswordIn"]) => taken(api.PUT("/api/session/password", { body })),
  });
}
