import { useState } from "react";
import { moment } from "../../shared/figures";
import { Changed, changesBetween } from "../../shared/ui/Changed";
import type { RecipeControl } from "./useRecipe";

/** A setting that is on the screen and not on the server: why, and what can be done about it. */
export function NotSaved({ control }: { control: RecipeControl }) {
  const { unsaved, byOther } = control;
  if (!unsaved)
    return byOther ? (
      <p className="notice" role="status">
        {byOther.by} changed these settings, {moment(byOther.at)}. They are shown now; History has what they
        were.
      </p>
    ) : null;
  if (unsaved.conflict) return <Conflict control={control} />;
  return (
    <div className="notice" role="alert">
      <b>Not saved.</b> {unsaved.message} {unsaved.trying && "It is kept here and tried again."}
      <div className="answers">
        <button type="button" className="quiet-button" onClick={control.again}>
          Try now
        </button>
        <button type="button" className="quiet-button" onClick={control.discard}>
          Go back to what is saved
        </button>
      </div>
    </div>
  );
}

/** Two people set the same at once: what differs, either to be looked at, and one of them to be chosen. */
function Conflict({ control }: { control: RecipeControl }) {
  const { recipe, kept, change, changedBy, changedAt } = control;
  const [mine] = useState(recipe);
  const [looking, setLooking] = useState<"mine" | "theirs">("mine");
  if (!mine || !kept) return null;
  const look = (which: "mine" | "theirs") => {
    setLooking(which);
    change(which === "mine" ? mine : kept);
  };
  const who = changedBy || "Somebody else";
  return (
    <div className="notice" role="alert">
      <b>Not saved.</b> {who} changed these settings meanwhile{changedAt && `, ${moment(changedAt)}`}. Theirs,
      struck out, and yours:
      <Changed changes={changesBetween(kept, mine)} />
      <div className="answers">
        <button
          type="button"
          className="quiet-button"
          onClick={() => look(looking === "mine" ? "theirs" : "mine")}
        >
          {looking === "mine" ? "Look at theirs" : "Look at mine"}
        </button>
        <button
          type="button"
          className="quiet-button"
          onClick={() => {
            change(mine);
            control.again();
          }}
        >
          Save mine over it
        </button>
        <button type="button" className="quiet-button" onClick={control.discard}>
          Use theirs
        </button>
      </div>
    </div>
  );
}
