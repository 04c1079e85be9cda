import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, type Recipe, type RecipeState, Refused, taken } from "../../api/client";

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
  const saving = useRef(Promise.resolve());
  const place = `${artworkId}/${slug}`;

  // biome-ignore lint/correctness/useExhaustiveDependencies: another place, another draft
  useEffect(() => {
    setDraft(undefined);
    setNotice(undefined);
  }, [place]);

  const kept = useQuery({
    queryKey: key,
    queryFn: async () =>
      (await taken(api.GET("/api/bench/{artwork_id}/{slug}/recipe", { params }))) as RecipeState,
  });

  const settle = useMutation({
    mutationFn: async (act: (version: number) => Promise<RecipeState>) => {
      const version = queries.getQueryData<RecipeState>(key)?.version ?? 0;
      return act(version);
    },
    onSuccess: (state) => {
      setNotice(undefined);
      queries.setQueryData(key, state);
      setDraft(undefined);
    },
    onError: async (error) => {
      setNotice(error.message);
      setDraft(undefined);
      if (error instanceof Refused && error.status === 409)
        await queries.invalidateQueries({ queryKey: key });
    },
  });

  /** One after the other: each step needs the version that the one before it made. */
  const inTurn = useCallback(
    (act: (version: number) => Promise<RecipeState>) => {
      saving.current = saving.current
        .then(() => settle.mutateAsync(act))
        .then(
          () => undefined,
          () => undefined,
        );
    },
    [settle.mutateAsync],
  );

  const keep = (recipe: Recipe) => {
    setDraft(recipe);
    inTurn(
      async (version) =>
        (await taken(
          api.PUT("/api/bench/{artwork_id}/{slug}/recipe", { params, body: { recipe, version } }),
        )) as RecipeState,
    );
  };

  const step = (direction: "undo" | "redo") =>
    inTurn(
      async (version) =>
        (await taken(
          api.POST("/api/bench/{artwork_id}/{slug}/recipe/step", { params, body: { direction, version } }),
        )) as RecipeState,
    );

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
