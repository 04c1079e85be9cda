import type { RecipeControl } from "./useRecipe";

/** A setting that is on the screen and not on the server: why, and what can be done about it. */
export function NotSaved({ control }: { control: RecipeControl }) {
  const { unsaved } = control;
  if (!unsaved) return null;
  return (
    <div className="notice" role="alert">
      <b>Not saved.</b> {unsaved.message} {unsaved.trying && "It is kept here and tried again."}
      <div className="answers">
        <button type="button" className="quiet-button" onClick={control.again}>
          {unsaved.conflict ? "Save mine over it" : "Try now"}
        </button>
        <button type="button" className="quiet-button" onClick={control.discard}>
          {unsaved.conflict ? "Use theirs" : "Go back to what is saved"}
        </button>
      </div>
    </div>
  );
}
