import { useLocation } from "react-router";
import { useBatches, useWatched } from "../api/batchQueries";
import { useCharacterizations } from "../api/characterizationQueries";
import { useKeptRecipe } from "../api/conditionQueries";
import { useOutputs } from "../api/policyQueries";
import { useConditions, useRuns } from "../api/queries";
import type { Situation } from "./guides";

/** The house as a guide sees it; settings follow within two seconds of being kept. */
export function useSituation(begunAt: number): Situation {
  const { pathname, search } = useLocation();
  const [, room, artwork = "", slug = ""] = pathname.split("/");
  const bench = room === "bench" && slug !== "";
  const conditions = useConditions().data ?? [];
  const recipe = useKeptRecipe(bench ? Number(artwork) : 0, bench ? slug : "", 2000);
  return {
    path: pathname,
    look: new URLSearchParams(search),
    condition: bench ? conditions.find((each) => each.slug === slug) : undefined,
    recipe: bench ? recipe.data?.recipe : undefined,
    conditions,
    runs: (useRuns().data ?? []).filter((run) => Date.parse(run.asked_at) > begunAt),
    batches: useBatches().data ?? [],
    characterizations: useCharacterizations().data ?? [],
    outputs: useOutputs().data ?? [],
    folders: useWatched().data ?? [],
    begunAt,
  };
}
