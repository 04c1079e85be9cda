import type { RecipeControl } from "../useRecipe";

/** A station's name and purpose, with undo and redo of its settings. */
export function PanelHead({
  title,
  purpose,
  control,
}: {
  title: string;
  purpose: string;
  control: RecipeControl;
}) {
  return (
    <header>
      <div>
        <h2>{title}</h2>
        <p className="soft">{purpose}</p>
      </div>
      <div className="undo-redo">
        <button type="button" className="quiet-button" disabled={!control.canUndo} onClick={control.undo}>
          Undo
        </button>
        <button type="button" className="quiet-button" disabled={!control.canRedo} onClick={control.redo}>
          Redo
        </button>
      </div>
    </header>
  );
}
