import { useEffect, useRef, useState } from "react";
import {
  fetchPicture,
  isPassing,
  isThinLine,
  type PictureWindow,
  type Recipe,
  type RenderRequest,
} from "../../api/client";

export interface Picture {
  bitmap: ImageBitmap;
  window: PictureWindow;
  /** Not to be judged: the exact one is on its way. */
  sketch: boolean;
}

const AGAIN_MS = 3000;
const RESTS_MS = 900;

interface Wanted {
  artworkId: number;
  slug: string;
  /** Of the artwork: another version is another picture. */
  version: number;
  body: { recipe: Recipe; view: RenderRequest; window: PictureWindow };
}

/**
 * The latest picture for what is wanted. One request is under way at a time; while a control moves, states in
 * between are passed over and the newest is asked for next.
 */
export function usePicture(wanted: Wanted | undefined) {
  const [picture, setPicture] = useState<Picture>();
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string>();
  const newest = useRef<Wanted | undefined>(undefined);
  const working = useRef(false);
  const asking = useRef<AbortController>(undefined);
  /** Whether the exact picture is on its way after a sketch of it. */
  const exact = useRef(false);
  const key = wanted ? JSON.stringify(wanted) : "";

  // A picture that is not shown any more gives its memory back.
  useEffect(() => () => picture?.bitmap.close(), [picture]);

  useEffect(
    () => () => {
      newest.current = undefined;
      asking.current?.abort();
    },
    [],
  );

  // biome-ignore lint/correctness/useExhaustiveDependencies: the key stands for all that is wanted
  useEffect(() => {
    newest.current = wanted;
    if (exact.current) asking.current?.abort();
    if (!wanted) {
      setPicture(undefined);
      setError(undefined);
      return;
    }
    if (working.current) return;
    async function work() {
      working.current = true;
      setBusy(true);
      let done: Wanted | undefined;
      while (newest.current && newest.current !== done) {
        done = newest.current;
        asking.current = new AbortController();
        try {
          const { signal } = asking.current;
          const show = async (sketch: boolean) => {
            const { artworkId, slug, body } = done as Wanted;
            const bitmap = await fetchPicture(artworkId, slug, body, signal, sketch);
            if (newest.current) setPicture({ bitmap, window: body.window, sketch });
            else bitmap.close();
          };
          if (isThinLine()) {
            await show(true);
            // While a control moves, only sketches come; the exact one is asked for when it rests.
            await new Promise((resolve) => setTimeout(resolve, RESTS_MS));
            exact.current = newest.current === done;
          }
          if (newest.current === done) await show(false);
          exact.current = false;
          setError(undefined);
        } catch (cause) {
          const givenUp = exact.current && newest.current !== done;
          exact.current = false;
          if (!newest.current) break;
          // An exact picture on its way over a thin line, and something newer is wanted: that comes first.
          if (givenUp) continue;
          setError((cause as Error).message);
          // A server that is away or busy is asked again, as long as the picture is wanted.
          if (isPassing(cause)) {
            await new Promise((resolve) => setTimeout(resolve, AGAIN_MS));
            if (newest.current === done) done = undefined;
          }
        }
      }
      working.current = false;
      setBusy(false);
    }
    void work();
  }, [key]);

  return { picture, busy, error };
}
