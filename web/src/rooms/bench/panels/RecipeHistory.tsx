import { useRecipeHistory } from "../../../api/recipeQueries";
import { moment } from "../../../shared/figures";
import { Changed } from "../../../shared/ui/Changed";
import type { RecipeControl } from "../useRecipe";

/** Every step of these settings: who, when, what, and the way back to it. */
export function RecipeHistory({ control }: { control: RecipeControl }) {
  const { artworkId, slug } = control.place;
  const found = useRecipeHistory(artworkId, slug, control.kept);
  if (found.error) return <p className="notice">{found.error.message}</p>;
  if (!found.data) return <p className="soft">Looking it up</p>;
  if (found.data.length === 0)
    return <p className="soft">Nothing was changed yet: these are the condition's own.</p>;
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a long history is scrolled by keys
    <ol className="revisions" tabIndex={0} aria-label="History of these settings">
      {found.data.map((past) => (
        <li key={past.number} aria-current={past.in_force || undefined}>
          <div>
            <span className="strong">{past.number === 0 ? "As it began" : past.by || "the house"}</span>
            {past.at && <span className="soft"> {moment(past.at)}</span>}
            {past.in_force && ", in force"}
          </div>
          <Changed changes={past.changes} />
          {!past.in_force && (
            <button type="button" className="quiet-button" onClick={() => control.goTo(past.number)}>
              Go to this
            </button>
          )}
        </li>
      ))}
    </ol>
  );
}
