import Button from "@mui/material/Button";
import { useState } from "react";
import { useWatched, useWatchedActions, type WatchedFolder } from "../../api/batchQueries";
import { useKeptSettings } from "../../api/houseQueries";
import { useOutputs } from "../../api/policyQueries";
import { useConditions } from "../../api/queries";
import { moment } from "../../shared/figures";

const WORDS: Record<string, string> = {
  found: "found",
  opening: "being opened",
  making: "being made",
  done: "done",
  failed: "failed",
};

/** Folders of the server: what is put into them comes out as inks, or through an output. */
export function WatchedFolders() {
  const watched = useWatched();
  const { switchOn, remove } = useWatchedActions();
  const [adding, setAdding] = useState(false);
  const [changing, setChanging] = useState<number>();
  if (watched.isPending) return null;
  const error = watched.error ?? switchOn.error ?? remove.error;
  return (
    <section>
      <div className="run-head">
        <h2>Watched folders</h2>
        <button
          type="button"
          className="quiet-button"
          aria-expanded={adding}
          onClick={() => setAdding(!adding)}
        >
          {adding ? "Close" : "Watch a folder"}
        </button>
      </div>
      {error && (
        <p className="notice" role="alert">
          {error.message}
        </p>
      )}
      {adding && <FolderForm onDone={() => setAdding(false)} />}
      {watched.data?.length === 0 && !adding && (
        <p className="soft">
          None yet: put files into a folder of the server, and find them separated beside it.
        </p>
      )}
      {watched.data?.map((folder) => {
        const goesTo = [
          folder.condition && `artwork for ${folder.condition}`,
          folder.by_subfolder && "artwork for the condition that a subfolder is called",
          folder.output && `documents through ${folder.output}`,
          folder.has_recipe &&
            (folder.recipe_name ? `by the recipe '${folder.recipe_name}'` : "by a recipe of its own"),
        ].filter(Boolean);
        return (
          <section key={folder.id} className="batch" aria-label={`Watched folder ${folder.name}`}>
            <div className="run-head">
              <span className="strong">{folder.name}</span>
              <span role="status">
                {folder.active ? "watched" : "switched off"}
                {Object.entries(folder.counts).map(([state, count]) => `, ${count} ${WORDS[state] ?? state}`)}
              </span>
            </div>
            <div className="soft">
              <code>{folder.path}/in</code>: {goesTo.join("; ")}
              {folder.name_rule && `; named ${folder.name_rule}`}
            </div>
            <div className="run-links">
              <button
                type="button"
                className="quiet-button"
                aria-label={`${folder.active ? "Switch off" : "Switch on"} ${folder.name}`}
                onClick={() => switchOn.mutate({ id: folder.id, on: !folder.active })}
              >
                {folder.active ? "Switch off" : "Switch on"}
              </button>
              <button
                type="button"
                className="quiet-button"
                aria-expanded={changing === folder.id}
                aria-label={`Change ${folder.name}`}
                onClick={() => setChanging(changing === folder.id ? undefined : folder.id)}
              >
                Change
              </button>
              <button
                type="button"
                className="quiet-button soft"
                aria-label={`Remove ${folder.name}`}
                onClick={() => remove.mutate(folder.id)}
              >
                Remove
              </button>
            </div>
            {changing === folder.id && <FolderForm folder={folder} onDone={() => setChanging(undefined)} />}
            {folder.files.length > 0 && (
              <table className="table" aria-label={`Last files of ${folder.name}`}>
                <thead>
                  <tr>
                    <th>File</th>
                    <th>Found</th>
                    <th>State</th>
                    <th>Said</th>
                  </tr>
                </thead>
                <tbody>
                  {folder.files.map((file) => (
                    <tr key={`${file.name} ${file.found_at}`}>
                      <td>{file.name}</td>
                      <td>{moment(file.found_at)}</td>
                      <td className={file.state === "failed" ? "strong" : ""}>{WORDS[file.state]}</td>
                      <td>{file.said}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            )}
          </section>
        );
      })}
    </section>
  );
}

/** A recipe of the house by its id, as each artwork is set, or the one that the folder has. */
type RecipeChoice = number | "as set" | "stays";

/** What a folder does with what is put into it; a new one gets its name here as well. */
function FolderForm({ folder, onDone }: { folder?: WatchedFolder; onDone: () => void }) {
  const conditions = useConditions().data ?? [];
  const outputs = useOutputs().data ?? [];
  const recipes = useKeptSettings("recipe").list;
  const { add, change } = useWatchedActions();
  const [name, setName] = useState("");
  const [condition, setCondition] = useState(folder?.condition_slug ?? "");
  const [output, setOutput] = useState(String(folder?.output_id ?? ""));
  const [rule, setRule] = useState(folder?.name_rule ?? "");
  const [recipe, setRecipe] = useState<RecipeChoice>(folder?.has_recipe ? "stays" : "as set");
  const [bySubfolder, setBySubfolder] = useState(folder?.by_subfolder ?? false);
  const chosen = recipes.find((each) => each.id === recipe);
  const error = add.error ?? change.error;
  const body = {
    condition: bySubfolder ? "" : condition,
    output_id: output ? Number(output) : null,
    recipe: chosen?.recipe ?? null,
    recipe_name: chosen?.name ?? "",
    recipe_stays: recipe === "stays",
    name_rule: rule,
    by_subfolder: bySubfolder,
    active: folder?.active ?? true,
  };
  return (
    <form
      className="run-tools"
      onSubmit={(event) => {
        event.preventDefault();
        if (folder) change.mutate({ id: folder.id, body }, { onSuccess: onDone });
        else add.mutate({ ...body, name }, { onSuccess: onDone });
      }}
    >
      {!folder && (
        <label>
          <span>Name of the folder</span>
          <input className="field" value={name} onChange={(event) => setName(event.target.value)} />
        </label>
      )}
      <label>
        <span>Artwork for</span>
        <select
          className="field"
          value={bySubfolder ? "by subfolder" : condition}
          onChange={(event) => {
            setBySubfolder(event.target.value === "by subfolder");
            setCondition(event.target.value);
          }}
        >
          <option value="">none</option>
          <option value="by subfolder">conditions by subfolder</option>
          {conditions.map((each) => (
            <option key={each.slug} value={each.slug}>
              {each.name}
            </option>
          ))}
        </select>
      </label>
      <label>
        <span>Documents through</span>
        <select className="field" value={output} onChange={(event) => setOutput(event.target.value)}>
          <option value="">none</option>
          {outputs.map((each) => (
            <option key={each.id} value={each.id}>
              {each.name}
            </option>
          ))}
        </select>
      </label>
      <label>
        <span>Recipe</span>
        <select
          className="field"
          value={recipe}
          onChange={(event) => {
            const { value } = event.target;
            setRecipe(value === "as set" || value === "stays" ? value : Number(value));
          }}
        >
          <option value="as set">as each is set</option>
          {folder?.has_recipe && (
            <option value="stays">{folder.recipe_name || "its own"}, as it is here</option>
          )}
          {recipes.map((each) => (
            <option key={each.id} value={each.id}>
              {each.name}
            </option>
          ))}
        </select>
      </label>
      <label>
        <span>Names of the files</span>
        <input
          className="field"
          placeholder="as each recipe has it"
          value={rule}
          onChange={(event) => setRule(event.target.value)}
        />
      </label>
      <Button
        type="submit"
        variant="contained"
        disabled={(!folder && !name.trim()) || add.isPending || change.isPending}
      >
        {folder ? "Save" : "Watch it"}
      </Button>
      {error && (
        <p className="notice" role="alert">
          {error.message}
        </p>
      )}
    </form>
  );
}
