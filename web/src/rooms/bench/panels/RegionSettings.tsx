import "./RegionSettings.css";
import Button from "@mui/material/Button";
import type { Region } from "../../../api/client";
import { fixed, percent } from "../../../shared/figures";
import { Choice } from "../../../shared/ui/Choice";
import { SliderSetting } from "../../../shared/ui/SliderSetting";
import type { Drawing, Tool } from "../useDrawing";
import type { PanelProps } from "./PanelProps";

const TOOLS: [Tool, string, string][] = [
  ["rectangle", "Rectangle", "Drag over the picture"],
  ["outline", "Outline", "Draw around it on the picture"],
  ["color", "By color", "Point at the color on the picture"],
];

interface Props extends Omit<PanelProps, "artwork" | "conditions"> {
  drawing: Drawing;
  region: Region | undefined;
  onChange: (region: Region) => void;
  onKeep: (region: Region) => void;
}

/** Everywhere or in a region: choosing, drawing, softening, and what black does there. */
export function RegionSettings({
  condition,
  recipe,
  control,
  viewState,
  drawing,
  region,
  onChange,
  onKeep,
}: Props) {
  const { regions } = recipe.adjust;
  const hint = TOOLS.find(([tool]) => tool === drawing.tool)?.[2];
  return (
    <section>
      <h3>Where</h3>
      <div className="where">
        <button
          type="button"
          className="choice"
          aria-pressed={!region}
          onClick={() => viewState.showRegion("", false)}
        >
          Everywhere
        </button>
        {regions.map((each) => (
          <button
            key={each.name}
            type="button"
            className="choice"
            aria-pressed={region?.name === each.name}
            onClick={() => viewState.showRegion(each.name, viewState.mark === "region")}
          >
            {each.name}
            {each.black !== "as set" && <span className="soft"> · black {each.black}</span>}
          </button>
        ))}
      </div>
      <div className="answers">
        {TOOLS.map(([tool, name]) => (
          <Button
            key={tool}
            variant={drawing.tool === tool ? "contained" : "outlined"}
            disabled={regions.length >= 12}
            onClick={() => drawing.choose(tool)}
          >
            {name}
          </Button>
        ))}
      </div>
      {hint && <p className="notice">{hint}.</p>}
      {region && (
        <div className="hue-move">
          <div className="head-line">
            <button
              type="button"
              className="quiet-button"
              aria-pressed={viewState.mark === "region"}
              onClick={() => viewState.showRegion(region.name, viewState.mark !== "region")}
            >
              {viewState.mark === "region" ? "Hide its hatching" : "Show it hatched"}
            </button>
            <button
              type="button"
              className="quiet-button"
              onClick={() => {
                viewState.showRegion("", false);
                const left = regions.filter((each) => each.name !== region.name);
                control.keep({ ...recipe, adjust: { ...recipe.adjust, regions: left } });
              }}
            >
              Remove the region
            </button>
          </div>
          {region.corners.length > 0 && (
            <SliderSetting
              label="Soft edge"
              value={region.softness * 100}
              min={0}
              max={30}
              step={0.5}
              text={percent(region.softness * 100, 1)}
              onMove={(value) => onChange({ ...region, softness: value / 100 })}
              onRest={(value) => onKeep({ ...region, softness: value / 100 })}
            />
          )}
          {region.color && (
            <>
              <SliderSetting
                label="Reach"
                value={region.color.radius}
                min={2}
                max={80}
                text={`${fixed(region.color.radius, 0)} ΔE`}
                onMove={(radius) =>
                  region.color && onChange({ ...region, color: { ...region.color, radius } })
                }
                onRest={(radius) => region.color && onKeep({ ...region, color: { ...region.color, radius } })}
              />
              <SliderSetting
                label="Softness"
                value={region.color.softness * 100}
                min={0}
                max={100}
                text={percent(region.color.softness * 100)}
                onMove={(value) =>
                  region.color && onChange({ ...region, color: { ...region.color, softness: value / 100 } })
                }
                onRest={(value) =>
                  region.color && onKeep({ ...region, color: { ...region.color, softness: value / 100 } })
                }
              />
            </>
          )}
          <Choice
            label="Applies"
            value={region.inverted ? "outside" : "inside"}
            options={[
              ["inside", "Inside"],
              ["outside", "Outside"],
            ]}
            onChange={(value) => onKeep({ ...region, inverted: value === "outside" })}
          />
          {condition.inks.includes("K") && recipe.ink.method === "rebuilt" && (
            <Choice
              label="Black"
              value={region.black}
              options={[
                ["as set", "As set"],
                ["none", "None here"],
                ["only", "Only here"],
              ]}
              onChange={(black) => onKeep({ ...region, black })}
            />
          )}
        </div>
      )}
    </section>
  );
}
