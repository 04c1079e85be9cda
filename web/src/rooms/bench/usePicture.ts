import { useEffect, useRef, useState } from "react";
import { fetchPicture, type PictureWindow, type Recipe, type View } from "../../api/client";

export interface Picture {
  bitmap: ImageBitmap;
  window: PictureWindow;
}

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
  const key = wanted ? JSON.stringify(wanted) : "";

  // biome-ignore lint/correctness/useExhaustiveDependencies: the key stands for all that is wanted
  useEffect(() => {
    newest.current = wanted;
    if (!wanted) {
      setPicture(undefined);
      return;
    }
    if (working.current) return;
    async function work() {
      working.current = true;
      setBusy(true);
      let done: Wanted | undefined;
      while (newest.current && newest.current !== done) {
        done = newest.current;
        try {
          const bitmap = await fetchPicture(done.artworkId, done.slug, done.body);
          setPicture({ bitmap, window: done.body.window });
          setError(undefined);
        } catch (cause) {
          setError((cause as Error).message);
        }
      }
      working.current = false;
      setBusy(false);
    }
    void work();
  }, [key]);

  return { picture, busy, error };
}
