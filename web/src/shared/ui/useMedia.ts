import { useSyncExternalStore } from "react";

/** Less room than the rail and a panel beside the picture take: a small screen, or a page zoomed to 200 %. */
export const NARROW = "(width < 900px)";
export const SHORT = "(height < 560px)";

/** Whether a media query holds, now and as the window changes. */
export function useMedia(query: string): boolean {
  return useSyncExternalStore(
    (told) => {
      const media = matchMedia(query);
      media.addEventListener("change", told);
      return () => media.removeEventListener("change", told);
    },
    () => matchMedia(query).matches,
  );
}
