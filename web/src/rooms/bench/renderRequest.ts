import type { Artwork, Condition, InkFigures, Recipe, RenderRequest } from "../../api/client";
import { percent } from "../../shared/figures";
import type { ViewState } from "./useViewState";

/** What the server is asked to show at the station and with the marks that are looked at. */
export function renderRequest(viewState: ViewState): RenderRequest {
  // At Adjust the edit is watched through the proof; the artwork's own numbers are a flip away.
  const show =
    viewState.map || (viewState.station === "source" && viewState.plates.length === 0 ? "artwork" : "print");
  return {
    show,
    substrate: viewState.substrate,
    black_depth: !viewState.fullBlack,
    plates: viewState.plates,
    tint: viewState.grayPlates ? "gray" : "ink",
    mark:
      (viewState.mark === "family" && !viewState.family) || (viewState.mark === "hue" && !viewState.hue)
        ? ""
        : viewState.mark,
    family: viewState.family ?? null,
    hue: viewState.hue ?? null,
    region: viewState.region,
    tolerance: viewState.marks.tolerance,
    mark_color: viewState.marks.color,
    mark_angle_deg: viewState.marks.angle,
    display: viewState.display,
  };
}

/** The other half of a wipe, a pair or a flip: the artwork itself, adjusted once Adjust is passed. */
export function originalRequest(viewState: ViewState): RenderRequest {
  const show = viewState.station === "source" || viewState.station === "adjust" ? "artwork" : "adjusted";
  return { ...renderRequest(viewState), show, mark: "", plates: [], family: null, hue: null };
}

/** The artwork's own picture depends on Source and Adjust alone; a moving ink slider need not fetch it again. */
export function forOriginal(recipe: Recipe, view: RenderRequest): Recipe {
  const adjust = view.show === "artwork" ? { ...recipe.adjust, regions: [] } : recipe.adjust;
  const neutral = { total_percent: 300, per_ink_percent: [] };
  const plate = { plates: [] };
  return { ...recipe, adjust, plate, ink: { ...recipe.ink, limits: neutral, without: [] } };
}

export function artworkTag(artwork: Artwork, recipe: Recipe, view: RenderRequest): string {
  const { profile } = recipe.source;
  const named = profile === "embedded" ? artwork.profile_name || "no profile" : shortProfile(profile);
  const adjusted = view.show === "adjusted" && touched(recipe) ? ", adjusted" : "";
  const there = artwork.space === "CMYK" ? "as it prints there: " : "";
  return `${artwork.name.replace(/\.[^.]+$/, "")}, ${there}${named}${adjusted}`;
}

/** A digest says nothing to people; the panel names the profile. */
export const shortProfile = (choice: string) => (choice.length === 64 ? "stored profile" : choice);

/** Whether a curve does nothing. */
export const straight = (points: [number, number][]) => points.every(([x, y]) => x === y);

/** Whether Adjust does anything. */
export function touched(recipe: Recipe): boolean {
  const { base, regions } = recipe.adjust;
  return (
    regions.length > 0 ||
    base.chroma_percent !== 0 ||
    !straight(base.master.points) ||
    !straight(base.lightness.points) ||
    base.channels.some((each) => !straight(each.curve.points)) ||
    base.hues.some((hue) => hue.shift_deg || hue.lightness || hue.chroma_percent)
  );
}

export function printTag(
  condition: Condition,
  recipe: Recipe,
  viewState: ViewState,
  ink: InkFigures | undefined,
): string {
  if (viewState.map === "coverage") {
    const scale = `white 0 to black ${condition.inks.length * 100} %`;
    if (!ink) return `coverage before limiting, ${scale}`;
    const { wanted_largest_percent, wanted_largest_at } = ink.coverage;
    return `coverage before limiting, ${scale}; largest ${percent(wanted_largest_percent)} at ${wanted_largest_at.join(", ")}`;
  }
  if (viewState.map === "difference") return "ΔE00 from wanted to printed, white 0 to black 15";
  if (viewState.map === "negative") return "the contact negative, not mirrored";
  if (viewState.map === "film") {
    const { film } = recipe.deliver;
    const which = viewState.plates.length
      ? `${viewState.plates.join(" + ")} film`
      : "all films on each other";
    return `${which}: ${film.dpi} dpi, ${film.ruling_lpi} lpi, ${film.shape}`;
  }
  if (viewState.plates.length) return `${viewState.plates.join(" + ")} plate: ${condition.name}`;
  return `as printed: ${condition.name}${viewState.substrate ? ", on its substrate" : ""}`;
}
