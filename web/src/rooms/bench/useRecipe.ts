import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, type Recipe, type RecipeState, Refused, taken } from "../../api/client";

const BURST_MS = 250;

/**
 * The recipe of an artwork in a condition. `recipe` is what is shown: a draft while a control moves, else what
 * is kept. `change` moves the draft; `keep` saves it as one step of the history.
 */
export function useRecipe(artworkId: number, slug: string) {
  const queries = useQueryClient();
  const key = ["recipe", artworkId, slug];
  const params = { path: { artwork_id: artworkId, slug } };
  const [draft, setDraft] = useState<Recipe>();
  const [notice, setNotice] = useState<string>();
  const saving = useRef<Promise<void>>(Promise.resolve());
  const resting = useRef<Recipe>(undefined);
  const saveNow = useRef<() => void>(() => undefined);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const place = `${artworkId}/${slug}`;

  // biome-ignore lint/correctness/useExhaustiveDependencies: another place, another draft
  useEffect(() => {
    setDraft(undefined);
    setNotice(undefined);
    // Leaving for another condition must not lose what was set a moment ago.
    return () => saveNow.current();
  }, [place]);

  const kept = useQuery({
    queryKey: key,
    queryFn: async () =>
      (await taken(api.GET("/api/bench/{artwork_id}/{slug}/recipe", { params }))) as RecipeState,
  });

  const settle = useMutation({
    mutationFn: (act: (version: number) => Promise<RecipeState>) =>
      act(queries.getQueryData<RecipeState>(key)?.version ?? 0),
    onSuccess: (state) => {
      setNotice(undefined);
      queries.setQueryData(key, state);
    },
    onError: async (error) => {
      setNotice(error.message);
      setDraft(undefined);
      if (error instanceof Refused && error.status === 409)
        await queries.invalidateQueries({ queryKey: key });
    },
  });

  /** One after the other: each step needs the version that the one before it made. */
  const inTurn = (act: (version: number) => Promise<RecipeState>, done: () => void = () => undefined) => {
    saving.current = saving.current
      .then(() => settle.mutateAsync(act))
      .then(done)
      // What was refused is on the screen already; the next step has its own turn.
      .catch(() => undefined);
  };

  /** Save what rests; a burst of keys or clicks is one step of the history. */
  const save = () => {
    clearTimeout(timer.current);
    const recipe = resting.current;
    resting.current = undefined;
    if (!recipe) return;
    inTurn(
      async (version) =>
        (await taken(
          api.PUT("/api/bench/{artwork_id}/{slug}/recipe", { params, body: { recipe, version } }),
        )) as RecipeState,
      // A control that moved on since then keeps its draft.
      () => setDraft((now) => (now === recipe ? undefined : now)),
    );
  };

  const keep = (recipe: Recipe) => {
    setDraft(recipe);
    resting.current = recipe;
    clearTimeout(timer.current);
    timer.current = setTimeout(save, BURST_MS);
  };

  const step = (direction: "undo" | "redo") => {
    save();
    inTurn(
      async (version) =>
        (await taken(
          api.POST("/api/bench/{artwork_id}/{slug}/recipe/step", { params, body: { direction, version } }),
        )) as RecipeState,
      () => setDraft(undefined),
    );
  };

  saveNow.current = save;

  return {
    recipe: draft ?? kept.data?.recipe,
    kept: kept.data?.recipe,
    canUndo: kept.data?.can_undo ?? false,
    canRedo: kept.data?.can_redo ?? false,
    error: kept.error,
    notice,
    change: setDraft,
    keep,
    undo: () => step("undo"),
    redo: () => step("redo"),
  };
}

export type RecipeControl = ReturnType<typeof useRecipe>;
