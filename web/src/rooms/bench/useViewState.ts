import { useSearchParams } from "react-router";
import { useRuleSets } from "../../api/houseQueries";
import { usePreference } from "../../shared/preferences";

export const STATIONS = ["source", "adjust", "aim", "ink", "plate", "deliver"] as const;
export type StationName = (typeof STATIONS)[number];

/** How the picture is laid out, which map replaces it, what is hatched on it, and what stands below it. */
export type Layout = "whole" | "wipe" | "pair" | "sheet";
export type MapName = "" | "coverage" | "difference" | "film" | "negative";
export type MarkName = "" | "gamut" | "loss" | "display" | "family" | "hue" | "region";
export type BottomTab = "pins" | "hits" | "palette";

export interface MarkStyle {
  tolerance: number;
  color: [number, number, number];
  angle: number;
}

const one = <T extends string>(value: string | null, choices: readonly T[], otherwise: T): T =>
  (choices as readonly (string | null)[]).includes(value) ? (value as T) : otherwise;

/**
 * What is looked at, and how. All of it stands in the address, so that a colleague who is sent it sees the same;
 * the style of marks and the display are this browser's own.
 */
export function useViewState() {
  const [params, setParams] = useSearchParams();
  const rules = useRuleSets().data?.find((set) => set.in_use)?.rules;
  const [ownMarks, setMarks] = usePreference<MarkStyle | null>("marks", null);
  const [ownDisplay, setDisplay] = usePreference<string | null>("display", null);
  // What this browser has not chosen, the house rules say.
  const marks = ownMarks ?? { tolerance: 3, color: rules?.mark_color ?? [255, 255, 255], angle: 38 };
  const display = ownDisplay ?? rules?.display ?? "sRGB";

  function set(changes: Record<string, string | undefined>) {
    // Two keys in one breath: what the router hands out is older than the address itself.
    const next = new URLSearchParams(window.location.search);
    for (const [name, value] of Object.entries(changes)) value ? next.set(name, value) : next.delete(name);
    setParams(next, { replace: true });
  }

  const flag = (name: string) => params.get(name) === "1";
  const layout = one<Layout>(params.get("as"), ["whole", "wipe", "pair", "sheet"], "whole");
  const map = one<MapName>(params.get("map"), ["", "coverage", "difference", "film", "negative"], "");
  const mark = one<MarkName>(
    params.get("mark"),
    ["", "gamut", "loss", "display", "family", "hue", "region"],
    "",
  );
  const family = params.get("family")?.split(",").map(Number);
  const hue = params.get("hue")?.split(",").map(Number);
  return {
    station: one<StationName>(params.get("at"), STATIONS, "aim"),
    layout,
    map,
    mark,
    family:
      family?.length === 4 && family.every(Number.isFinite)
        ? { lab: family.slice(0, 3) as [number, number, number], radius: family[3] as number }
        : undefined,
    hue:
      hue?.length === 2 && hue.every(Number.isFinite)
        ? { center_deg: hue[0] as number, width_deg: hue[1] as number }
        : undefined,
    region: params.get("region") ?? "",
    /** The output whose delivery rule a written page follows. */
    rule: Number(params.get("rule")) || 0,
    tab: one<BottomTab>(params.get("strip"), ["pins", "hits", "palette"], "pins"),
    substrate: flag("substrate"),
    fullBlack: flag("fullblack"),
    grayPlates: flag("gray"),
    plates: (params.get("plates") ?? "").split(",").filter(Boolean),
    marks,
    setMarks,
    display,
    setDisplay,
    go: (at: StationName) => set({ at }),
    lay: (as: Layout) => set({ as: as === layout || as === "whole" ? undefined : as }),
    showMap: (name: MapName) => set({ map: name === map ? undefined : name }),
    showMark: (name: MarkName) => set({ mark: name === mark ? undefined : name }),
    showFamily: (lab: readonly number[] | undefined, radius = 0) =>
      set({ mark: lab && "family", family: lab && [...lab, radius].map((v) => v.toFixed(1)).join(",") }),
    showHue: (range: { center_deg: number; width_deg: number } | undefined) =>
      set({
        mark: range ? "hue" : mark === "hue" ? undefined : mark,
        hue: range && [range.center_deg, range.width_deg].map((v) => v.toFixed(1)).join(","),
      }),
    showRegion: (name: string, marked: boolean) =>
      set({
        region: name || undefined,
        mark: name && marked ? "region" : mark === "region" ? undefined : mark,
      }),
    followRule: (output: number) => set({ rule: output ? String(output) : undefined }),
    showTab: (tab: BottomTab) => set({ strip: tab === "pins" ? undefined : tab }),
    toggle: (name: "substrate" | "fullblack" | "gray") => set({ [name]: flag(name) ? undefined : "1" }),
    setPlates: (inks: string[]) => set({ plates: inks.length ? inks.join(",") : undefined }),
  };
}

export type ViewState = ReturnType<typeof useViewState>;
