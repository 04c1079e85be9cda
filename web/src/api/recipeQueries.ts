import { useQuery } from "@tanstack/react-query";
import { api, taken } from "./client";

/** Every state of an artwork's settings in a condition; asked again when what is in force changes. */
export function useRecipeHistory(artworkId: number, slug: string, inForce: unknown) {
  return useQuery({
    queryKey: ["recipe history", artworkId, slug, inForce],
    queryFn: () =>
      taken(
        api.GET("/api/bench/{artwork_id}/{slug}/recipe/history", {
          params: { path: { artwork_id: artworkId, slug } },
        }),
      ),
    placeholderData: (before) => before,
  });
}
