import "./SeparateMany.css";
import Button from "@mui/material/Button";
import { useState } from "react";
import { useNavigate } from "react-router";
import {
  type PlannedInk,
  separationOf,
  useBatchActions,
  usePlan,
  usePlannedInk,
} from "../../api/batchQueries";
import type { Artwork, Condition } from "../../api/client";
import { useKeptSettings } from "../../api/houseQueries";
import { useDocuments, useOutputs } from "../../api/policyQueries";
import { bytes, counted, fixed, lasting, percent, whole } from "../../shared/figures";
import { useSettled } from "./useSettled";

interface Props {
  artworks: Artwork[];
  conditions: Condition[];
  onCancel: () => void;
}

/** The chosen artworks for several conditions, and documents for several outputs beside them: what will come out, before
 *  it is asked for. */
export function SeparateMany({ artworks, conditions, onCancel }: Props) {
  const [slugs, setSlugs] = useState<string[]>([]);
  const documents = useDocuments().data ?? [];
  const outputs = useOutputs().data ?? [];
  const [documentIds, setDocumentIds] = useState<number[]>([]);
  const [outputIds, setOutputIds] = useState<number[]>([]);
  const sends = documentIds.length > 0 && outputIds.length > 0;
  const [rule, setRule] = useState("");
  const [name, setName] = useState(
    artworks.length === 1 ? (artworks[0]?.name ?? "") : counted(artworks.length, "artwork"),
  );
  const kept = useKeptSettings("recipe").list;
  const [recipeId, setRecipeId] = useState<number>();
  const recipe = kept.find((each) => each.id === recipeId)?.recipe;
  const { ask } = useBatchActions();
  const navigate = useNavigate();
  const batch = {
    name,
    artworks: artworks.map((each) => each.id),
    conditions: slugs,
    documents: sends ? documentIds : [],
    outputs: sends ? outputIds : [],
    name_rule: rule,
    recipe: recipe ?? null,
    priority: 0,
  };
  const anything = slugs.length > 0 || sends;
  const planned = usePlan(useSettled({ ...batch, name: "" }, 200), anything);
  const plan = anything ? planned.data : undefined;
  const makes = plan ? plan.total - plan.problems : 0;
  const [weighing, setWeighing] = useState(false);
  const ink = usePlannedInk(plan?.files ?? [], batch.recipe, weighing);
  return (
    <section className="separate-many" aria-label="Separate the chosen artworks">
      <h2>Separate {counted(artworks.length, "artwork")}</h2>
      <p className="soft">
        {recipe
          ? "All with one recipe; what of it does not fit an artwork or a condition is left out, and noted below."
          : "Each with its own recipe for the condition, as it was last set on the Bench."}
      </p>
      <Several
        legend="Printing conditions"
        options={conditions.map((each) => [each.slug, each.name])}
        chosen={slugs}
        onChange={setSlugs}
      />
      {documents.length > 0 && outputs.length > 0 && (
        <details>
          <summary>Documents too{sends && `: ${documentIds.length}`}</summary>
          <Several
            legend="Documents"
            options={documents.map((each) => [each.id, each.name])}
            chosen={documentIds}
            onChange={setDocumentIds}
          />
          <Several
            legend="Outputs"
            options={outputs.map((each) => [each.id, each.name])}
            chosen={outputIds}
            onChange={setOutputIds}
          />
          {documentIds.length > 0 && outputIds.length === 0 && (
            <p className="soft">Choose the outputs that they are to be sent through.</p>
          )}
        </details>
      )}
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
            <span className="strong">{counted(makes, "file")}</span>, about {bytes(plan.bytes)} and{" "}
            {lasting(plan.seconds)} on one worker
            {plan.problems > 0 && `; ${plan.problems} cannot be made`}.{" "}
            {!weighing && ink.of > 0 && (
              <button type="button" className="quiet-button" onClick={() => setWeighing(true)}>
                Estimate the ink
              </button>
            )}
            {weighing && (ink.done < ink.of ? `Ink of ${ink.done} of ${ink.of}.` : moneyOf(ink.found))}
          </p>
          <div className="scrolling">
            <table className="table" aria-label="What will come out">
              <thead>
                <tr>
                  <th>File</th>
                  <th>{sends ? "Artwork or document" : "Artwork"}</th>
                  <th>{sends ? "Condition or output" : "Condition"}</th>
                  <th className="number">Size, about</th>
                  {weighing && <th className="number">Ink, mean</th>}
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
                    {weighing && <td className="number">{inkOf(ink.found[separationOf(file)])}</td>}
                    <td>{file.problem ? <span className="strong">{file.problem}</span> : file.note}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          {plan.total > plan.files.length && (
            <p className="soft">
              {whole(plan.files.length)} of {whole(plan.total)} are listed, those with a problem first.
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
          onClick={() => ask.mutate(batch, { onSuccess: () => navigate("/runs") })}
        >
          {makes ? `${sends ? "Make" : "Separate"} ${counted(makes, "file")}` : "Separate"}
        </Button>
        <Button onClick={onCancel}>Cancel</Button>
      </div>
    </section>
  );
}

function inkOf(ink: PlannedInk | Error | undefined): string {
  if (ink instanceof Error) return ink.message;
  return ink ? percent(ink.mean_percent) : "";
}

/** Grams and money of one copy of each, where the conditions say what inks take and cost. */
function moneyOf(found: Record<string, PlannedInk | Error>): string {
  const known = Object.values(found).flatMap((ink) =>
    !(ink instanceof Error) && ink.cost && Object.keys(ink.cost.grams).length > 0 ? [ink.cost] : [],
  );
  if (known.length === 0) return "What their inks cost is not said at the conditions.";
  const grams = known.flatMap((cost) => Object.values(cost.grams)).reduce((sum, each) => sum + each, 0);
  const money: Record<string, number> = {};
  for (const cost of known) money[cost.currency] = (money[cost.currency] ?? 0) + cost.total_money;
  const sums = Object.entries(money).map(([currency, sum]) => `${fixed(sum, 2)} ${currency}`);
  const rest = Object.keys(found).length - known.length;
  return `One copy of each separation takes ${fixed(grams, 1)} g of ink and costs ${sums.join(" and ")}${rest > 0 ? `, ${rest} without figures not counted` : ""}.`;
}

function Several<K extends string | number>({
  legend,
  options,
  chosen,
  onChange,
}: {
  legend: string;
  options: [K, string][];
  chosen: K[];
  onChange: (chosen: K[]) => void;
}) {
  return (
    <fieldset>
      <legend>{legend}</legend>
      {options.map(([key, name]) => (
        <label key={key}>
          <input
            type="checkbox"
            checked={chosen.includes(key)}
            onChange={(event) =>
              onChange(event.target.checked ? [...chosen, key] : chosen.filter((each) => each !== key))
            }
          />{" "}
          {name}
        </label>
      ))}
    </fieldset>
  );
}
