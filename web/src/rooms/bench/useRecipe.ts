import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, isPassing, type Recipe, type RecipeState, Refused, taken } from "../../api/client";

const BURST_MS = 250;
const AGAIN_MS = 4000;

/** A setting that is not on the server: what it is, why, and whether it is tried again by itself. */
export interface Unsaved {
  message: string;
  /** Somebody else saved meanwhile: it is up to the person whose setting holds. */
  conflict: boolean;
  trying: boolean;
}

/**
 * The recipe of an artwork in a condition. `recipe` is what is shown: a draft while a control moves or while it could
 * not be saved, else what is kept. `change` moves the draft; `keep` saves it as one step of the history.
 */
export function useRecipe(artworkId: number, slug: string) {
  const queries = useQueryClient();
  const key = ["recipe", artworkId, slug];
  const params = { path: { artwork_id: artworkId, slug } };
  const [draft, setDraft] = useState<Recipe>();
  const [unsaved, setUnsaved] = useState<Unsaved>();
  const saving = useRef<Promise<void>>(Promise.resolve());
  const resting = useRef<Recipe>(undefined);
  const failed = useRef<Recipe>(undefined);
  const saveNow = useRef<() => void>(() => undefined);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const place = `${artworkId}/${slug}`;

  // biome-ignore lint/correctness/useExhaustiveDependencies: another place, another draft
  useEffect(() => {
    setDraft(undefined);
    setUnsaved(undefined);
    failed.current = undefined;
    // Leaving for another condition must not lose what was set a moment ago.
    return () => saveNow.current();
  }, [place]);

  useEffect(() => {
    if (!unsaved) return;
    // Closing the page would lose it.
    const asks = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", asks);
    return () => window.removeEventListener("beforeunload", asks);
  }, [unsaved]);

  const kept = useQuery({
    queryKey: key,
    queryFn: async () =>
      (await taken(api.GET("/api/bench/{artwork_id}/{slug}/recipe", { params }))) as RecipeState,
  });

  const settle = useMutation({
    mutationFn: (act: (version: number) => Promise<RecipeState>) =>
      act(queries.getQueryData<RecipeState>(key)?.version ?? 0),
    onSuccess: (state) => queries.setQueryData(key, state),
  });

  /** One after the other: each step needs the version that the one before it made. */
  const inTurn = (
    act: (version: number) => Promise<RecipeState>,
    done: () => void,
    refused: (cause: unknown) => void,
  ) => {
    saving.current = saving.current.then(() => settle.mutateAsync(act)).then(done, refused);
  };

  /** What was not saved is kept and shown; where the cause passes it is tried again. */
  const notSaved = (recipe: Recipe, cause: unknown) => {
    const conflict = cause instanceof Refused && cause.status === 409;
    const trying = isPassing(cause);
    // What was set since then takes its place.
    if (!resting.current) failed.current = recipe;
    setUnsaved({ message: (cause as Error).message, conflict, trying });
    if (conflict) void queries.invalidateQueries({ queryKey: key });
    if (!trying) return;
    clearTimeout(timer.current);
    timer.current = setTimeout(() => saveNow.current(), AGAIN_MS);
  };

  /** Save what rests, or what could not be saved before; a burst of keys or clicks is one step of the history. */
  const save = () => {
    clearTimeout(timer.current);
    const recipe = resting.current ?? failed.current;
    resting.current = undefined;
    failed.current = undefined;
    if (!recipe) return;
    inTurn(
      async (version) =>
        (await taken(
          api.PUT("/api/bench/{artwork_id}/{slug}/recipe", { params, body: { recipe, version } }),
        )) as RecipeState,
      () => {
        setUnsaved(undefined);
        // A control that moved on since then keeps its draft.
        setDraft((now) => (now === recipe ? undefined : now));
      },
      (cause) => notSaved(recipe, cause),
    );
  };

  const keep = (recipe: Recipe) => {
    setDraft(recipe);
    resting.current = recipe;
    clearTimeout(timer.current);
    timer.current = setTimeout(() => saveNow.current(), BURST_MS);
  };

  /** Go on with what is on the server. */
  const discard = () => {
    clearTimeout(timer.current);
    resting.current = undefined;
    failed.current = undefined;
    setUnsaved(undefined);
    setDraft(undefined);
  };

  const step = (direction: "undo" | "redo") => {
    save();
    inTurn(
      async (version) =>
        (await taken(
          api.POST("/api/bench/{artwork_id}/{slug}/recipe/step", { params, body: { direction, version } }),
        )) as RecipeState,
      () => setDraft(undefined),
      (cause) => setUnsaved({ message: (cause as Error).message, conflict: false, trying: false }),
    );
  };

  saveNow.current = save;

  return {
    recipe: draft ?? kept.data?.recipe,
    kept: kept.data?.recipe,
    canUndo: kept.data?.can_undo ?? false,
    canRedo: kept.data?.can_redo ?? false,
    error: kept.error,
    unsaved,
    change: setDraft,
    keep,
    again: save,
    discard,
    undo: () => step("undo"),
    redo: () => step("redo"),
  };
}

export type RecipeControl = ReturnType<typeof useRecipe>;
