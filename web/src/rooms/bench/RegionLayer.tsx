import "./RegionLayer.css";
import type { Recipe } from "../../api/client";
import type { Placing, Size } from "./geometry";
import type { Drawing } from "./useDrawing";
import type { ViewState } from "./useViewState";

interface Props {
  artwork: Size;
  recipe: Recipe;
  viewState: ViewState;
  placing: Placing;
  drawing: Drawing;
  shift: number;
}

/** Outlines of regions over the picture, at Adjust only: the chosen one strong, the one being drawn dashed. */
export function RegionLayer({ artwork, recipe, viewState, placing, drawing, shift }: Props) {
  const points = (corners: [number, number][]) =>
    corners
      .map(([x, y]) => [
        shift + placing.x + x * artwork.width * placing.zoom,
        placing.y + y * artwork.height * placing.zoom,
      ])
      .map((pair) => pair.map((value) => value.toFixed(1)).join(","))
      .join(" ");
  if (viewState.station !== "adjust" && drawing.corners.length === 0) return null;
  return (
    <svg className="regions" aria-hidden="true">
      {viewState.station === "adjust" &&
        recipe.adjust.regions.map((region) => (
          <g key={region.name} className={region.name === viewState.region ? "outline chosen" : "outline"}>
            <polygon points={points(region.corners)} />
            <polygon points={points(region.corners)} />
          </g>
        ))}
      {drawing.corners.length > 1 && (
        <g className="outline drawn">
          <polygon points={points(drawing.corners)} />
          <polygon points={points(drawing.corners)} />
        </g>
      )}
    </svg>
  );
}
