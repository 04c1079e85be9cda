import { useEffect, useRef, useState } from "react";
import { fetchPicture, isPassing, type PictureWindow, type Recipe, type View } from "../../api/client";

export interface Picture {
  bitmap: ImageBitmap;
  window: PictureWindow;
}

const AGAIN_MS = 3000;

interface Wanted {
  artworkId: number;
  slug: string;
  /** Of the artwork: another version is another picture. */
  version: number;
  body: { recipe: Recipe; view: View; window: PictureWindow };
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
          const bitmap = await fetchPicture(done.artworkId, done.slug, done.body, asking.current.signal);
          if (newest.current) setPicture({ bitmap, window: done.body.window });
          else bitmap.close();
          setError(undefined);
        } catch (cause) {
          if (!newest.current) break;
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
