import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import type { UseQueryResult } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import type { Differences, Intent } from "../../../api/client";
import { useDisplayGap } from "../../../api/conditionQueries";
import { fixed, percent } from "../../../shared/figures";
import { ProfileChoice } from "../../../shared/ui/ProfileChoice";
import { SliderSetting } from "../../../shared/ui/SliderSetting";
import type { MarkStyle } from "../useViewState";
import { PanelHead } from "./PanelHead";
import type { PanelProps } from "./PanelProps";

const INTENTS: [Intent, string, string][] = [
  ["perceptual", "Perceptual", "everything moves a little, relations stay"],
  ["relative", "Relative", "what can be printed stays, the rest goes to the nearest"],
  ["saturation", "Saturation", "as strong as the inks can"],
  ["absolute", "Absolute", "as relative, and the white of the source is printed too"],
];
const COLORS: [string, MarkStyle["color"]][] = [
  ["White", [255, 255, 255]],
  ["Black", [0, 0, 0]],
  ["Lime", [190, 255, 0]],
];

/** Which condition is aimed at, how, and what cannot be reached there. */
export function AimPanel(props: PanelProps & { differences: UseQueryResult<Differences> }) {
  const { artwork, condition, conditions, recipe, control, viewState, differences } = props;
  const navigate = useNavigate();
  const gap = useDisplayGap(condition.slug, viewState.display, viewState.substrate);
  const { aim } = recipe;
  const figures = differences.data;
  const mapped = aim.intent === "perceptual" || aim.intent === "saturation";
  const always = mapped && recipe.ink.method === "rebuilt";
  return (
    <>
      <PanelHead title="Aim" purpose="Which color the print is to have." control={control} />
      <section>
        <h3>Printing condition</h3>
        <Select
          size="small"
          value={condition.slug}
          inputProps={{ "aria-label": "Printing condition" }}
          onChange={(event) => navigate(`/bench/${artwork.id}/${event.target.value}${location.search}`)}
        >
          {conditions.map((each) => (
            <MenuItem key={each.slug} value={each.slug}>
              {each.name}
            </MenuItem>
          ))}
        </Select>
        <p className="soft">{condition.process}</p>
      </section>
      <section>
        <h3>Rendering intent</h3>
        <div>
          {INTENTS.map(([intent, name, meaning]) => (
            <button
              type="button"
              key={intent}
              className="choice"
              aria-pressed={aim.intent === intent}
              onClick={() => control.keep({ ...recipe, aim: { ...aim, intent } })}
            >
              <b>{name}</b>
              <span className="soft">{meaning}</span>
            </button>
          ))}
        </div>
        <FormControlLabel
          control={
            <Checkbox
              size="small"
              checked={always || (aim.bpc && aim.intent !== "absolute")}
              disabled={always || aim.intent === "absolute"}
              onChange={(event) => control.keep({ ...recipe, aim: { ...aim, bpc: event.target.checked } })}
            />
          }
          label={`Black point compensation${always ? ", part of this intent" : ""}`}
        />
      </section>
      <section>
        <h3>Proof view</h3>
        <FormControlLabel
          control={
            <Checkbox
              size="small"
              checked={viewState.substrate}
              onChange={() => viewState.toggle("substrate")}
            />
          }
          label="Color of the substrate"
        />
        <FormControlLabel
          control={
            <Checkbox
              size="small"
              checked={!viewState.fullBlack}
              onChange={() => viewState.toggle("fullblack")}
            />
          }
          label="Real depth of the black"
        />
        <ProfileChoice
          label="Display profile"
          value={viewState.display}
          space="RGB"
          onChange={(choice) => viewState.setDisplay(choice)}
        />
        <p className={gap.data && gap.data.share > 0.02 ? "notice" : "soft"}>
          {gap.data
            ? `This display cannot show ${percent(gap.data.share * 100, 1)} of what ${condition.name} prints.`
            : "Comparing the display with the condition"}{" "}
          <button
            type="button"
            className="quiet-button"
            aria-pressed={viewState.mark === "display"}
            onClick={() => viewState.showMark("display")}
          >
            {viewState.mark === "display" ? "Hide the marks" : "Mark it on the picture"}
          </button>
        </p>
      </section>
      <section>
        <div className="head-line">
          <h3>Out of gamut</h3>
          <button
            type="button"
            className="quiet-button"
            onClick={() =>
              navigate(`/gamut?with=${condition.slug}&in=${condition.slug}&artwork=${artwork.id}&arrows=1`)
            }
          >
            Look into it
            <kbd>G</kbd>
          </button>
        </div>
        <div className="totals" data-stale={differences.isPlaceholderData}>
          <div>
            <b>{figures ? percent(figures.out_of_gamut_share * 100, 1) : "…"}</b>of the artwork
          </div>
          <div>
            <b>{figures ? fixed(figures.mean) : "…"}</b>ΔE00 mean
          </div>
          <div>
            <b>{figures ? fixed(figures.p95) : "…"}</b>ΔE00, 95 % below
          </div>
          <div>
            <b>{figures ? fixed(figures.worst) : "…"}</b>ΔE00 largest
          </div>
        </div>
        <p className="soft">
          {artwork.space === "CMYK"
            ? "ΔE00 from the print there to the print here"
            : "ΔE00 from wanted to printed"}
          , media-relative D50
          {figures && `; largest at ${figures.worst_at[0]}, ${figures.worst_at[1]}`}.
        </p>
        {differences.error && <p className="notice">{differences.error.message}</p>}
        <SliderSetting
          label="Tolerance"
          value={viewState.marks.tolerance}
          min={1}
          max={15}
          step={0.5}
          text={`${fixed(viewState.marks.tolerance)} ΔE`}
          onMove={(tolerance) => viewState.setMarks({ ...viewState.marks, tolerance })}
          onRest={() => undefined}
        />
        <SliderSetting
          label="Hatch angle"
          value={viewState.marks.angle}
          min={0}
          max={175}
          step={1}
          text={`${viewState.marks.angle}°`}
          onMove={(angle) => viewState.setMarks({ ...viewState.marks, angle })}
          onRest={() => undefined}
        />
        <div className="setting wide">
          <span>Hatch color</span>
          <ToggleButtonGroup
            exclusive
            aria-label="Color of the hatching"
            value={viewState.marks.color.join()}
            onChange={(_, value: string | null) => {
              const color = COLORS.find(([, each]) => each.join() === value)?.[1];
              if (color) viewState.setMarks({ ...viewState.marks, color });
            }}
          >
            {COLORS.map(([name, color]) => (
              <ToggleButton key={name} value={color.join()}>
                {name}
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
        </div>
      </section>
    </>
  );
}
