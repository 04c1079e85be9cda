import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, isPassing, type Recipe, type RecipeState, Refused, taken } from "../../api/client";
import { useSession } from "../../api/queries";

const BURST_MS = 250;
const AGAIN_MS = 4000;
const COLLEAGUES_MS = 4000;

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
  const user = useSession().data?.user;
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
  const here = useRef(place);
  here.current = place;
  /**
   * By place, the version that a draft was begun on: what a colleague saved since then must not be written over unseen,
   * and what was set for one condition is saved there, even if one has gone on to another.
   */
  const begunOn = useRef(new Map<string, number>());
  const known = () => queries.getQueryData<RecipeState>(key)?.version ?? 0;
  const draw = (recipe: Recipe) => {
    if (!begunOn.current.has(place)) begunOn.current.set(place, known());
    setDraft(recipe);
  };

  // biome-ignore lint/correctness/useExhaustiveDependencies: another place, another draft
  useEffect(() => {
    setDraft(undefined);
    setUnsaved(undefined);
    failed.current = undefined;
    // Leaving for another condition must not lose what was set a moment ago; it is saved where it was set.
    return save;
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
    queryFn: async () => await taken(api.GET("/api/bench/{artwork_id}/{slug}/recipe", { params })),
    // What a colleague changes on the same artwork is seen within seconds.
    refetchInterval: COLLEAGUES_MS,
  });

  const state = kept.data;
  const seen = useRef<{ place: string; version: number }>(undefined);
  const [byOther, setByOther] = useState<{ by: string; at: string }>();
  useEffect(() => {
    if (!state) return;
    const before = seen.current;
    seen.current = { place, version: state.version };
    if (before?.place !== place) return setByOther(undefined);
    if (state.version === before.version) return;
    const other = state.changed_by && state.changed_by !== user;
    setByOther(other ? { by: state.changed_by, at: state.changed_at ?? "" } : undefined);
  }, [state, place, user]);

  const settle = async (act: (version: number) => Promise<RecipeState>) => {
    // A look at what was there before must not come in after what was saved.
    await queries.cancelQueries({ queryKey: key });
    const saved = await act(begunOn.current.get(place) ?? known());
    await queries.cancelQueries({ queryKey: key });
    queries.setQueryData(key, saved);
    // What is drawn on top of it goes on from here.
    if (begunOn.current.has(place)) begunOn.current.set(place, saved.version);
  };

  /** One after the other: each step needs the version that the one before it made. */
  const inTurn = (
    act: (version: number) => Promise<RecipeState>,
    done: () => void,
    refused: (cause: unknown) => void,
  ) => {
    saving.current = saving.current.then(() => settle(act)).then(done, refused);
  };

  /** What was not saved is kept and shown; where the cause passes it is tried again. */
  const notSaved = (recipe: Recipe, cause: unknown) => {
    const conflict = cause instanceof Refused && cause.status === 409;
    const trying = isPassing(cause);
    if (here.current !== place) {
      if (trying) setTimeout(() => put(recipe), AGAIN_MS);
      else {
        begunOn.current.delete(place);
        setUnsaved({
          message: `What was set for the condition that you left: ${(cause as Error).message}`,
          conflict: false,
          trying: false,
        });
      }
      return;
    }
    // What was set since then takes its place.
    if (!resting.current) failed.current = recipe;
    setUnsaved({ message: (cause as Error).message, conflict, trying });
    if (conflict) void queries.invalidateQueries({ queryKey: key });
    if (!trying) return;
    clearTimeout(timer.current);
    timer.current = setTimeout(() => saveNow.current(), AGAIN_MS);
  };

  const put = (recipe: Recipe) =>
    inTurn(
      async (version) =>
        await taken(api.PUT("/api/bench/{artwork_id}/{slug}/recipe", { params, body: { recipe, version } })),
      () => {
        if (here.current !== place) return void begunOn.current.delete(place);
        setUnsaved(undefined);
        // A control that moved on since then keeps its draft.
        setDraft((now) => {
          if (now !== recipe) return now;
          begunOn.current.delete(place);
          return undefined;
        });
      },
      (cause) => notSaved(recipe, cause),
    );

  /** Save what rests, or what could not be saved before; a burst of keys or clicks is one step of the history. */
  function save() {
    clearTimeout(timer.current);
    const recipe = resting.current ?? failed.current;
    resting.current = undefined;
    failed.current = undefined;
    if (recipe) put(recipe);
  }

  const keep = (recipe: Recipe) => {
    draw(recipe);
    resting.current = recipe;
    clearTimeout(timer.current);
    timer.current = setTimeout(() => saveNow.current(), BURST_MS);
  };

  /** Go on with what is on the server. */
  const discard = () => {
    clearTimeout(timer.current);
    resting.current = undefined;
    failed.current = undefined;
    begunOn.current.delete(place);
    setUnsaved(undefined);
    setDraft(undefined);
  };

  const step = (direction: "undo" | "redo" | "to", number = 0) => {
    save();
    inTurn(
      async (version) =>
        await taken(
          api.POST("/api/bench/{artwork_id}/{slug}/recipe/step", {
            params,
            body: { direction, number, version },
          }),
        ),
      () => {
        begunOn.current.delete(place);
        setDraft(undefined);
      },
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
    change: draw,
    keep,
    /** Once more what was not saved; over what a colleague saved, if that was seen. */
    again: () => {
      if (unsaved?.conflict) begunOn.current.delete(place);
      save();
    },
    discard,
    /** Who else changed these settings while they were looked at, until one changes them oneself. */
    byOther,
    changedBy: kept.data?.changed_by ?? "",
    changedAt: kept.data?.changed_at ?? "",
    place: { artworkId, slug },
    goTo: (number: number) => step("to", number),
    undo: () => step("undo"),
    redo: () => step("redo"),
  };
}

export type RecipeControl = ReturnType<typeof useRecipe>;
