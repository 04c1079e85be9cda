import type { Artwork, Condition, Recipe } from "../../../api/client";
import type { Look } from "../useLook";
import type { RecipeControl } from "../useRecipe";

/** What every station's panel is handed. */
export interface PanelProps {
  artwork: Artwork;
  condition: Condition;
  conditions: Condition[];
  recipe: Recipe;
  control: RecipeControl;
  look: Look;
}
