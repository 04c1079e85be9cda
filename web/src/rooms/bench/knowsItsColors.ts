import type { Artwork, Recipe } from "../../api/client";

/** Without a profile, numbers have no color: nothing is asked of the server that it could only refuse. */
export function knowsItsColors(artwork: Artwork, recipe: Recipe): boolean {
  return artwork.profile_name !== "" || recipe.source.profile !== "embedded";
}
