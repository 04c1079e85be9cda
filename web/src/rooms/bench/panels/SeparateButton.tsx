import Button from "@mui/material/Button";
import { useState } from "react";
import { api, type Recipe, taken } from "../../../api/client";
import type { Output } from "../../../api/policyQueries";
import { useAskRun } from "../../../api/queries";
import { counted } from "../../../shared/figures";
import type { PanelProps } from "./PanelProps";

const VERBS: Record<Recipe["deliver"]["format"], string> = {
  tiff: "Separate and write",
  jpeg: "Separate and write",
  pdf: "Separate and write",
  films: "Write the films",
  negative: "Write the negative",
  "hard-proof": "Write the hard proof",
};

type Props = Pick<PanelProps, "artwork" | "condition" | "recipe" | "viewState"> & {
  others?: string[];
  /** Whose delivery rule a written page is brought under. */
  output?: Output | undefined;
};

/** Ask for the file, and for its fellows in other conditions, and show them being made. */
export function SeparateButton({ artwork, condition, recipe, viewState, others = [], output }: Props) {
  const ask = useAskRun();
  const [failed, setFailed] = useState<string>();

  async function askAll() {
    setFailed(undefined);
    try {
      await ask.mutateAsync({
        artwork_id: artwork.id,
        condition: condition.slug,
        recipe,
        rule: output?.rule ?? null,
        output_id: output?.id ?? null,
      });
      for (const slug of others) {
        const params = { path: { artwork_id: artwork.id, slug } };
        const there = await taken(api.GET("/api/bench/{artwork_id}/{slug}/recipe", { params }));
        const { source, adjust, aim } = recipe;
        // Whether light and dark inks are written apart is each printer's own affair.
        const deliver = { ...recipe.deliver, calibrated: there.recipe.deliver.calibrated };
        await ask.mutateAsync({
          artwork_id: artwork.id,
          condition: slug,
          recipe: { ...there.recipe, source, adjust, aim, deliver },
          rule: null,
        });
      }
      viewState.go("deliver");
    } catch (cause) {
      setFailed((cause as Error).message);
    }
  }

  const count = others.length + 1;
  // Elsewhere than at Deliver only what it says is done: films and pages are looked at there before they are written.
  const writes = viewState.station === "deliver" || recipe.deliver.format === "tiff";
  return (
    <>
      {failed && (
        <p className="notice" role="alert">
          {failed}
        </p>
      )}
      {writes ? (
        <Button variant="contained" disabled={ask.isPending} onClick={() => void askAll()}>
          {VERBS[recipe.deliver.format]}
          {count > 1 ? `, ${counted(count, "file")}` : ""}
        </Button>
      ) : (
        <Button variant="contained" onClick={() => viewState.go("deliver")}>
          Go to Deliver
        </Button>
      )}
    </>
  );
}
