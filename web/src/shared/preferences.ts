import { useEffect, useState } from "react";

/** A choice of this browser, kept over reloads. */
export function usePreference<T>(name: string, initial: T): [T, (value: T) => void] {
  const [value, setValue] = useState<T>(() => {
    const kept = localStorage.getItem(`plinto.${name}`);
    return kept === null ? initial : (JSON.parse(kept) as T);
  });
  useEffect(() => localStorage.setItem(`plinto.${name}`, JSON.stringify(value)), [name, value]);
  return [value, setValue];
}
