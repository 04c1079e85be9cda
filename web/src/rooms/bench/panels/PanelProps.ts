import type { Artwork, Condition, Recipe } from "../../../api/client";
import type { RecipeControl } from "../useRecipe";
import type { ViewState } from "../useViewState";

/** What every station's panel is handed. */
export interface PanelProps {
  artwork: Artwork;
  condition: Condition;
  conditions: Condition[];
  recipe: Recipe;
  control: RecipeControl;
  viewState: ViewState;
}
