import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import type { UseQueryResult } from "@tanstack/react-query";
import type { InkFigures, Recipe } from "../../../api/client";
import { useBlackKinds } from "../../../api/queries";
import { blackName } from "../../../shared/blackNames";
import { fixed, lab, percent } from "../../../shared/figures";
import { drivenByRgb } from "../../../shared/inks";
import { BlackSettings } from "../../../shared/ui/BlackSettings";
import { Choice } from "../../../shared/ui/Choice";
import { SettingName } from "../../../shared/ui/SettingName";
import { SingleInkLimits } from "../../../shared/ui/SingleInkLimits";
import { SliderSetting } from "../../../shared/ui/SliderSetting";
import { BuiltWith } from "./BuiltWith";
import { CoveragePlot } from "./CoveragePlot";
import { GrayAxisPlot } from "./GrayAxisPlot";
import { InkCost } from "./InkCost";
import { InksLeftOut } from "./InksLeftOut";
import { KeptSettings } from "./KeptSettings";
import { PanelHead } from "./PanelHead";
import type { PanelProps } from "./PanelProps";
import { SeparateButton } from "./SeparateButton";

/** Sets of inks that CMYK artwork can keep: black, the solids, their overprints. */
const KEPT = ["K", "C", "M", "Y", "CM", "MY", "CY"];
const inOrder = (sets: string[]) => KEPT.filter((each) => sets.includes(each));

interface Props extends PanelProps {
  ink: UseQueryResult<InkFigures>;
  copies: number;
  onCopies: (copies: number) => void;
}

/** Less total ink than this makes no picture, of three inks and more. */
const LEAST_TOTAL = 120;

/** How an aimed color is made of inks: limits and black. */
export function InkPanel(props: Props) {
  const { artwork, condition, recipe, control, viewState, ink, copies, onCopies } = props;
  const kinds = useBlackKinds();
  const { limits, black, method } = recipe.ink;
  const rebuilt = method === "rebuilt";
  const rgb = drivenByRgb(condition.inks);
  const withInk = (change: Partial<Recipe["ink"]>): Recipe => ({
    ...recipe,
    ink: { ...recipe.ink, ...change },
  });
  const withTotal = (total_percent: number) => withInk({ limits: { ...limits, total_percent } });
  const kind = Object.entries(kinds.data ?? {}).find(
    ([, policy]) => JSON.stringify(policy) === JSON.stringify(black),
  )?.[0];
  const figures = ink.data;
  return (
    <>
      <PanelHead
        title="Ink"
        purpose={
          rgb
            ? "The aimed color in the printer's R, G, B."
            : `The aimed color made of ${condition.inks.length} inks.`
        }
        control={control}
      />
      <ToggleButtonGroup
        exclusive
        aria-label="How inks are found"
        value={method}
        onChange={(_, value: Recipe["ink"]["method"] | null) =>
          value &&
          control.keep(
            withInk(value === "rebuilt" ? { method: value } : { method: value, without: [], keep: [] }),
          )
        }
      >
        <ToggleButton value="as-profiled">Profile's tables</ToggleButton>
        <ToggleButton value="rebuilt">Own separation</ToggleButton>
      </ToggleButtonGroup>
      {rgb ? (
        <p>
          {condition.name} is driven by RGB and makes its inks itself: limits and black are the printer's own
          affair.
        </p>
      ) : rebuilt ? (
        <section style={{ gap: 0 }}>
          <SliderSetting
            label="Ink limit"
            value={limits.total_percent}
            min={Math.min(LEAST_TOTAL, 50 * condition.inks.length)}
            max={100 * condition.inks.length}
            mark={condition.total_ink_percent}
            text={percent(limits.total_percent)}
            onMove={(value) => control.change(withTotal(value))}
            onRest={(value) => control.keep(withTotal(value))}
          />
          <div className="setting wide">
            <SettingName name="Black generation" />
            <Select
              size="small"
              value={kind ?? "own"}
              inputProps={{ "aria-label": "Black generation" }}
              onChange={(event) => {
                const policy = kinds.data?.[event.target.value];
                if (policy) control.keep(withInk({ black: policy }));
              }}
            >
              {!kind && <MenuItem value="own">As set below</MenuItem>}
              {Object.keys(kinds.data ?? {}).map((each) => (
                <MenuItem key={each} value={each}>
                  {blackName(each)}
                </MenuItem>
              ))}
            </Select>
          </div>
          <BlackSettings
            black={black}
            onMove={(next) => control.change(withInk({ black: next }))}
            onRest={(next) => control.keep(withInk({ black: next }))}
          />
          <SingleInkLimits
            inks={condition.inks}
            limits={limits}
            onMove={(next) => control.change(withInk({ limits: next }))}
            onRest={(next) => control.keep(withInk({ limits: next }))}
          />
          <InksLeftOut {...props} figures={figures} />
          {artwork.space === "CMYK" && (
            <div className="setting wide">
              <SettingName name="Preserve pure inks" />
              <ToggleButtonGroup
                aria-label="Pure inks that are preserved"
                value={recipe.ink.keep}
                onChange={(_, keep: string[]) => control.keep(withInk({ keep: inOrder(keep) }))}
              >
                {KEPT.filter((set) => [...set].every((each) => condition.inks.includes(each))).map((set) => (
                  <ToggleButton key={set} value={set}>
                    {set}
                  </ToggleButton>
                ))}
              </ToggleButtonGroup>
            </div>
          )}
          {artwork.space === "CMYK" && recipe.ink.keep.length > 0 && (
            <Choice
              label="Preserve"
              value={recipe.ink.keep_as}
              options={[
                ["look", "Their look"],
                ["numbers", "Their numbers"],
              ]}
              onChange={(keep_as) => control.keep(withInk({ keep_as }))}
            />
          )}
        </section>
      ) : (
        <p className="soft">
          The profile's own tables, limits and black, exactly as any conforming software reads them. Choose
          Own separation to set limits and black for this job.
        </p>
      )}
      <div className="ink-figures" data-stale={ink.isPlaceholderData}>
        {!rgb && <GrayAxisPlot figures={figures} space={artwork.space} />}
        {figures && <p className="soft">Darkest gray prints L*a*b* {lab(figures.black_point_lab)}</p>}
        {!rgb && (
          <>
            <CoveragePlot
              figures={figures}
              inks={condition.inks.length}
              limit={rebuilt ? limits.total_percent : undefined}
            />
            <p className="soft">Mean coverage, % of the artwork</p>
            <div className="totals">
              {condition.inks.map((letter, index) => (
                <div key={letter}>
                  <b>{figures ? fixed(figures.coverage.mean_percent[index] ?? 0, 0) : "…"}</b>
                  {letter}
                </div>
              ))}
            </div>
          </>
        )}
      </div>
      {!rgb && (
        <InkCost
          artwork={artwork}
          condition={condition}
          figures={figures}
          copies={copies}
          onCopies={onCopies}
        />
      )}
      {ink.error && <p className="notice">{ink.error.message}</p>}
      {!rgb && (
        <KeptSettings
          station="ink"
          word="ink settings"
          inks={condition.inks}
          recipe={recipe}
          onUse={(kept) => control.keep(withInk(kept.ink))}
        >
          <BuiltWith
            inks={condition.inks}
            onUse={(limits, black) =>
              control.keep(withInk({ ...recipe.ink, method: "rebuilt", limits, black }))
            }
          />
        </KeptSettings>
      )}
      <div className="foot">
        <SeparateButton artwork={artwork} condition={condition} recipe={recipe} viewState={viewState} />
      </div>
    </>
  );
}
