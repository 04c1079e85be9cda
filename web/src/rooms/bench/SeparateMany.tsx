import Button from "@mui/material/Button";
import { useState } from "react";
import { useNavigate } from "react-router";
import { type BatchWish, useBatchActions, usePlan } from "../../api/batchQueries";
import type { Artwork, Condition } from "../../api/client";
import { useKeptSettings } from "../../api/houseQueries";
import { bytes, lasting } from "../../shared/figures";
import { useSettled } from "./useSettled";

interface Props {
  artworks: Artwork[];
  conditions: Condition[];
  onCancel: () => void;
}

/** The chosen artworks for several conditions: what will come out, before it is asked for. */
export function SeparateMany({ artworks, conditions, onCancel }: Props) {
  const [slugs, setSlugs] = useState<string[]>([]);
  const [rule, setRule] = useState("");
  const [name, setName] = useState(
    artworks.length === 1 ? (artworks[0]?.name ?? "") : `${artworks.length} artworks`,
  );
  const kept = useKeptSettings("recipe").list;
  const [recipeId, setRecipeId] = useState<number>();
  const recipe = kept.find((each) => each.id === recipeId)?.settings as BatchWish["recipe"];
  const { ask } = useBatchActions();
  const navigate = useNavigate();
  const wish = {
    name,
    artworks: artworks.map((each) => each.id),
    conditions: slugs,
    documents: [],
    outputs: [],
    name_rule: rule,
    recipe: recipe ?? null,
    priority: 0,
  };
  const planned = usePlan(useSettled({ ...wish, name: "" }, 200), slugs.length > 0);
  const plan = slugs.length ? planned.data : undefined;
  const makes = plan ? plan.total - plan.problems : 0;
  return (
    <section className="separate-many" aria-label="Separate the chosen artworks">
      <h2>
        Separate {artworks.length} {artworks.length === 1 ? "artwork" : "artworks"}
      </h2>
      <p className="soft">
        {recipe
          ? "All with one recipe; what of it does not fit an artwork or a condition is left out, and noted below."
          : "Each with its own recipe for the condition, as it was last set on the Bench."}
      </p>
      <fieldset>
        <legend>Printing conditions</legend>
        {conditions.map((each) => (
          <label key={each.slug}>
            <input
              type="checkbox"
              checked={slugs.includes(each.slug)}
              onChange={(event) =>
                setSlugs(
                  event.target.checked ? [...slugs, each.slug] : slugs.filter((slug) => slug !== each.slug),
                )
              }
            />{" "}
            {each.name}
          </label>
        ))}
      </fieldset>
      <div className="fields">
        <label>
          <span>Name of the batch</span>
          <input className="field" value={name} onChange={(event) => setName(event.target.value)} />
        </label>
        <label>
          <span>Recipe</span>
          <select
            className="field"
            value={recipeId ?? ""}
            onChange={(event) => setRecipeId(Number(event.target.value) || undefined)}
          >
            <option value="">as each is set</option>
            {kept.map((each) => (
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
      </div>
      <p className="soft">
        In a name: {"{artwork} {condition} {intent} {limit} {date}"}. Nothing typed leaves each its own rule.
      </p>
      {planned.error && (
        <p className="notice" role="alert">
          {planned.error.message}
        </p>
      )}
      {plan && (
        <>
          <p role="status">
            <span className="strong">
              {makes} {makes === 1 ? "file" : "files"}
            </span>
            , about {bytes(plan.bytes)} and {lasting(plan.seconds)} on one worker
            {plan.problems > 0 && `; ${plan.problems} cannot be made`}.
          </p>
          <div className="scrolling">
            <table className="table" aria-label="What will come out">
              <thead>
                <tr>
                  <th>File</th>
                  <th>Artwork</th>
                  <th>Condition</th>
                  <th className="number">Size, about</th>
                  <th>Note</th>
                </tr>
              </thead>
              <tbody>
                {plan.files.map((file) => (
                  <tr key={`${file.of_name}\n${file.for_name}`}>
                    <td className={file.problem ? "" : "strong"}>{file.file_name}</td>
                    <td>{file.of_name}</td>
                    <td>{file.for_name}</td>
                    <td className="number">{file.problem ? "" : bytes(file.bytes)}</td>
                    <td>{file.problem ? <span className="strong">{file.problem}</span> : file.note}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          {plan.total > plan.files.length && (
            <p className="soft">
              {plan.files.length} of {plan.total} are listed, those with a problem first.
            </p>
          )}
        </>
      )}
      {ask.error && (
        <p className="notice" role="alert">
          {ask.error.message}
        </p>
      )}
      <div className="answers">
        <Button
          variant="contained"
          disabled={!plan || makes === 0 || ask.isPending || !name.trim()}
          onClick={() => ask.mutate(wish, { onSuccess: () => navigate("/runs") })}
        >
          {makes ? `Separate ${makes} ${makes === 1 ? "file" : "files"}` : "Separate"}
        </Button>
        <Button onClick={onCancel}>Cancel</Button>
      </div>
    </section>
  );
}
