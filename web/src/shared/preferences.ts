import { useCallback, useMemo, useSyncExternalStore } from "react";

const listening = new Set<() => void>();
const listen = (told: () => void) => {
  listening.add(told);
  // Another window of the same browser.
  window.addEventListener("storage", told);
  return () => {
    listening.delete(told);
    window.removeEventListener("storage", told);
  };
};

/** A choice of this browser, kept over reloads; whoever shows it follows at once. */
export function usePreference<T>(name: string, initial: T): [T, (value: T) => void] {
  const key = `plinto.${name}`;
  const kept = useSyncExternalStore(listen, () => localStorage.getItem(key));
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is kept says it; the initial value never changes
  const value = useMemo(() => (kept === null ? initial : (JSON.parse(kept) as T)), [kept]);
  const set = useCallback(
    (next: T) => {
      localStorage.setItem(key, JSON.stringify(next));
      for (const told of listening) told();
    },
    [key],
  );
  return [value, set];
}
