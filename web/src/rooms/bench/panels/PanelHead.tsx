import "./PanelHead.css";
import { useState } from "react";
import type { RecipeControl } from "../useRecipe";
import { RecipeHistory } from "./RecipeHistory";

interface Props {
  title: string;
  purpose: string;
  control: RecipeControl;
}

/** A station's name and purpose, with undo, redo and the history of the artwork's settings. */
export function PanelHead({ title, purpose, control }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <header>
        <div>
          <h2 tabIndex={-1}>{title}</h2>
          <p className="soft">{purpose}</p>
        </div>
        <div className="undo-redo">
          <button type="button" className="quiet-button" disabled={!control.canUndo} onClick={control.undo}>
            Undo
          </button>
          <button type="button" className="quiet-button" disabled={!control.canRedo} onClick={control.redo}>
            Redo
          </button>
          <button type="button" className="quiet-button" aria-expanded={open} onClick={() => setOpen(!open)}>
            History
          </button>
        </div>
      </header>
      {open && <RecipeHistory control={control} />}
    </>
  );
}
