import type { Artwork, Condition, Differences, InkFigures, Recipe } from "../../api/client";
import { fixed, megapixels, percent } from "../../app/figures";
import { RegisterMark } from "../../app/RegisterMark";
import { type Look, READY, STATIONS, type StationName } from "./useLook";

interface Props {
  artwork: Artwork;
  condition: Condition;
  recipe: Recipe;
  look: Look;
  differences: Differences | undefined;
  ink: InkFigures | undefined;
}

/** The line from artwork to ink: six stations, each with the figures that matter there. */
export function Line({ look, ...facts }: Props) {
  return (
    <nav className="line" aria-label="The line from artwork to ink">
      {STATIONS.map((name, index) => {
        const title = name[0]?.toUpperCase() + name.slice(1);
        if (!READY.includes(name))
          return (
            <div key={name} className="station later">
              <span className="name">{title}</span>
              <span className="figure">passes through</span>
            </div>
          );
        const on = look.station === name;
        const figure = stationFigure(name, facts);
        return (
          <button
            key={name}
            type="button"
            className={on ? "station on" : "station"}
            aria-current={on ? "step" : undefined}
            title={`${title}: ${figure} (key ${index + 1})`}
            onClick={() => look.go(name)}
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
  { artwork, condition, recipe, differences, ink }: Omit<Props, "look">,
): string {
  if (name === "source") {
    const profile =
      recipe.source.profile === "embedded" ? artwork.profile_name || "no profile" : recipe.source.profile;
    return `${profile} · ${artwork.depth} bit · ${megapixels(artwork)}`;
  }
  if (name === "aim") {
    const out = differences ? ` · ${percent(differences.out_of_gamut_share * 100, 1)} out` : "";
    return `${condition.name} · ${recipe.aim.intent}${out}`;
  }
  if (name === "ink") {
    const largest = ink ? fixed(ink.coverage.largest_percent, 0) : "…";
    if (recipe.ink.method === "as-profiled") return `as profiled · max ${largest} %`;
    return `max ${largest} of ${percent(recipe.ink.limits.total_percent)} · black ${percent(recipe.ink.black.amount_percent)}`;
  }
  const { depth, embed_profile } = recipe.deliver;
  return `TIFF ${depth} bit, profile ${embed_profile ? "embedded" : "stripped"}`;
}
