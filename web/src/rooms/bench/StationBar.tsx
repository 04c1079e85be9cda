import "./StationBar.css";
import type { Artwork, Condition, Differences, InkFigures, Recipe } from "../../api/client";
import { counted, fixed, megapixels, percent } from "../../shared/figures";
import { drivenByRgb } from "../../shared/inks";
import { RegisterMark } from "../../shared/ui/RegisterMark";
import { plateTouched } from "./panels/PlatePanel";
import { shortProfile, straight, touched } from "./renderRequest";
import { STATIONS, type StationName, type ViewState } from "./useViewState";

interface Props {
  artwork: Artwork;
  condition: Condition;
  recipe: Recipe;
  viewState: ViewState;
  differences: Differences | undefined;
  ink: InkFigures | undefined;
  /** A station is gone to by key, so that its settings are what comes next. */
  onReach: (station: StationName) => void;
}

/** The line from artwork to ink: six stations, each with the figures that matter there. */
export function StationBar({ viewState, onReach, ...facts }: Props) {
  return (
    <nav className="line" aria-label="The line from artwork to ink">
      {STATIONS.map((name, index) => {
        const title = name[0]?.toUpperCase() + name.slice(1);
        const on = viewState.station === name;
        const figure = stationFigure(name, facts);
        return (
          <button
            key={name}
            type="button"
            className={on ? "station on" : "station"}
            aria-current={on ? "step" : undefined}
            title={`${title}: ${figure} (key ${index + 1})`}
            onClick={({ detail }) => (detail === 0 ? onReach(name) : viewState.go(name))}
          >
            <RegisterMark filled={on} />
            <span className="name">{title}</span>
            <span className="figure">{figure}</span>
          </button>
        );
      })}
    </nav>
  );
}

function stationFigure(
  name: StationName,
  { artwork, condition, recipe, differences, ink }: Omit<Props, "viewState" | "onReach">,
): string {
  if (name === "source") {
    const profile =
      recipe.source.profile === "embedded"
        ? artwork.profile_name || "no profile"
        : shortProfile(recipe.source.profile);
    return `${profile} · ${artwork.depth} bit · ${megapixels(artwork)}`;
  }
  if (name === "adjust") return adjustFigure(recipe);
  if (name === "plate") return drivenByRgb(condition.inks) ? "the printer's own" : plateFigure(recipe);
  if (name === "aim") {
    const out = differences ? ` · ${percent(differences.out_of_gamut_share * 100, 1)} out` : "";
    return `${condition.name} · ${recipe.aim.intent}${out}`;
  }
  if (name === "ink") {
    if (drivenByRgb(condition.inks)) return "driven by RGB";
    const largest = ink ? fixed(ink.coverage.largest_percent, 0) : "…";
    if (recipe.ink.method === "as-profiled") return `as profiled · max ${largest} %`;
    return `max ${largest} of ${percent(recipe.ink.limits.total_percent)} · ${recipe.ink.without.length ? `without ${recipe.ink.without.join(" ")}` : `black ${percent(recipe.ink.black.amount_percent)}`}`;
  }
  return deliverFigure(recipe);
}

function adjustFigure(recipe: Recipe): string {
  if (!touched(recipe)) return "as it is";
  const { base, regions } = recipe.adjust;
  const curves = [base.master, base.lightness, ...base.channels.map((each) => each.curve)];
  const parts = [
    curves.some((each) => !straight(each.points)) && "curve",
    base.chroma_percent !== 0 &&
      `chroma ${base.chroma_percent > 0 ? "+" : ""}${fixed(base.chroma_percent, 0)}`,
    base.hues.length > 0 && "hues",
    regions.length > 0 && counted(regions.length, "region"),
  ];
  return parts.filter(Boolean).join(", ");
}

function plateFigure(recipe: Recipe): string {
  const changed = recipe.plate.plates.filter(plateTouched).map((plate) => plate.ink);
  return changed.length ? `${changed.join(" ")} changed` : "as separated";
}

function deliverFigure(recipe: Recipe): string {
  const { format, depth, embed_profile, film, negative } = recipe.deliver;
  if (format === "films") return film.halftone ? `films, ${film.dpi} dpi` : "gray films";
  if (format === "negative") return `negative, ${negative.film.container.toUpperCase()}`;
  if (format === "hard-proof") return "hard proof";
  const name = format === "tiff" ? `TIFF ${depth} bit` : format.toUpperCase();
  return `${name}, profile ${embed_profile ? "embedded" : "stripped"}`;
}
