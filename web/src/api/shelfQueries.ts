import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, taken } from "./client";
import type { paths } from "./schema";

type Query = NonNullable<paths["/api/artworks/shelf"]["get"]["parameters"]["query"]>;
export type Narrowing = Omit<Query, "offset" | "limit">;

const PAGE = 60;

/** Artwork on the shelf, loaded as one scrolls. */
export function useShelf(wanted: Narrowing) {
  return useInfiniteQuery({
    queryKey: ["artworks", "shelf", wanted],
    initialPageParam: 0,
    queryFn: ({ pageParam }) =>
      taken(
        api.GET("/api/artworks/shelf", {
          params: { query: { ...wanted, offset: pageParam, limit: PAGE } },
        }),
      ),
    getNextPageParam: (last, pages) => {
      const loaded = pages.reduce((sum, page) => sum + page.items.length, 0);
      return last.items.length && loaded < last.total ? loaded : undefined;
    },
  });
}

export function useShelfChoices() {
  return useQuery({
    queryKey: ["artworks", "choices"],
    queryFn: () => taken(api.GET("/api/artworks/shelf/choices")),
    staleTime: 30_000,
  });
}

export function useRemoveMany() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (ids: number[]) => taken(api.POST("/api/artworks/shelf/remove", { body: { ids } })),
    onSettled: () => queries.invalidateQueries({ queryKey: ["artworks"] }),
  });
}
