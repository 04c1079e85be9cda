import { useSearchParams } from "react-router";
import { usePreference } from "../../app/preferences";

export const STATIONS = ["source", "adjust", "aim", "ink", "plate", "deliver"] as const;
export type StationName = (typeof STATIONS)[number];
/** Stations that have a panel; the others keep their place on the line until they come. */
export const READY: readonly StationName[] = ["source", "aim", "ink", "deliver"];

export interface MarkStyle {
  tolerance: number;
  color: [number, number, number];
  angle: number;
}

/**
 * What is looked at, and how. Station, wipe, marks, map and plates stand in the address, so that a colleague who
 * is sent it sees the same; the style of marks is this browser's own.
 */
export function useLook() {
  const [params, setParams] = useSearchParams();
  const [marks, setMarks] = usePreference<MarkStyle>("marks", {
    tolerance: 3,
    color: [255, 255, 255],
    angle: 38,
  });

  function set(changes: Record<string, string | undefined>) {
    // Two keys in one breath: what the router hands out is older than the address itself.
    const next = new URLSearchParams(window.location.search);
    for (const [name, value] of Object.entries(changes))
      value === undefined ? next.delete(name) : next.set(name, value);
    setParams(next, { replace: true });
  }

  const flag = (name: string) => params.get(name) === "1";
  const station = (READY as readonly string[]).includes(params.get("at") ?? "")
    ? (params.get("at") as StationName)
    : "aim";
  const plates = (params.get("plates") ?? "").split(",").filter(Boolean);
  return {
    station,
    wipe: flag("wipe"),
    gamut: flag("gamut"),
    coverage: flag("coverage"),
    substrate: flag("substrate"),
    grayPlates: flag("gray"),
    plates,
    marks,
    setMarks,
    go: (at: StationName) => set({ at }),
    toggle: (name: "wipe" | "gamut" | "coverage" | "substrate" | "gray") =>
      set({ [name]: flag(name) ? undefined : "1" }),
    whole: () => set({ wipe: undefined }),
    setPlates: (inks: string[]) => set({ plates: inks.length ? inks.join(",") : undefined }),
  };
}

export type Look = ReturnType<typeof useLook>;
