import { useEffect, useState } from "react";
import type { CurvePoints, InkFigures, InkPlate, Recipe } from "../../../api/client";
import { percent } from "../../../shared/figures";
import { drivenByRgb, inkColor } from "../../../shared/inks";
import { Choice } from "../../../shared/ui/Choice";
import { SettingName } from "../../../shared/ui/SettingName";
import { SliderSetting } from "../../../shared/ui/SliderSetting";
import { CurveEditor } from "./CurveEditor";
import { GrayAxisPlot } from "./GrayAxisPlot";
import { KeptSettings } from "./KeptSettings";
import { PanelHead } from "./PanelHead";
import type { PanelProps } from "./PanelProps";
import { SeparateButton } from "./SeparateButton";

const STRAIGHT: CurvePoints = [
  [0, 0],
  [1, 1],
];
const untouched = (ink: string): InkPlate => ({
  ink,
  curve: { points: STRAIGHT },
  gain: [],
  bump_percent: 0,
  smallest: "keep",
  smallest_percent: 3,
  shadow_percent: 100,
});

/** Whether a plate is changed at all. */
export function plateTouched(plate: InkPlate): boolean {
  return (
    plate.curve.points.some(([x, y]) => x !== y) ||
    plate.gain.length > 0 ||
    plate.bump_percent > 0 ||
    (plate.smallest !== "keep" && plate.smallest_percent > 0) ||
    plate.shadow_percent < 100
  );
}

/** Rows of 'dot  printed' as pairs; undefined where they cannot be read. */
export function parseGain(text: string): [number, number][] | undefined {
  const rows = text
    .split("\n")
    .map((line) => line.trim())
    .filter(Boolean)
    .map((line) =>
      line
        .replaceAll(",", ".")
        .split(/[\s;]+/)
        .map(Number),
    );
  const good = rows.every((row) => row.length === 2 && row.every((value) => value >= 0 && value <= 100));
  return good ? (rows as [number, number][]) : undefined;
}

/** Work on single plates: curve, gain of this press, bump, smallest dot, shadows. */
export function PlatePanel(props: PanelProps & { figures: InkFigures | undefined }) {
  const { artwork, condition, recipe, control, viewState, figures } = props;
  const [chosen, setChosen] = useState(condition.inks[0] ?? "K");
  const ink = condition.inks.includes(chosen) ? chosen : (condition.inks[0] ?? "K");
  const plate = recipe.plate.plates.find((each) => each.ink === ink) ?? untouched(ink);
  const written = plate.gain.map((row) => row.join("  ")).join("\n");
  const [gain, setGain] = useState(written);
  useEffect(() => setGain(written), [written]);
  const parsed = parseGain(gain);

  const withPlate = (next: InkPlate, every = false): Recipe => {
    const inks = every ? condition.inks : [ink];
    const others = recipe.plate.plates.filter((each) => !inks.includes(each.ink));
    const made = plateTouched(next) ? inks.map((each) => ({ ...next, ink: each })) : [];
    return { ...recipe, plate: { plates: [...others, ...made] } };
  };
  const change = (part: Partial<InkPlate>) => control.change(withPlate({ ...plate, ...part }));
  const keep = (part: Partial<InkPlate>) => control.keep(withPlate({ ...plate, ...part }));

  if (drivenByRgb(condition.inks))
    return (
      <>
        <PanelHead title="Plate" purpose="Each plate by itself." control={control} />
        <p>
          {condition.name} is driven by RGB and makes its inks itself. There is no plate within reach here.
        </p>
      </>
    );
  return (
    <>
      <PanelHead title="Plate" purpose="Each plate by itself; the ink limit still holds." control={control} />
      <Choice
        bare
        label="Plate to work on"
        value={ink}
        options={condition.inks.map((each) => {
          const set = recipe.plate.plates.some((other) => other.ink === each && plateTouched(other));
          return [each, set ? `${each} ·` : each] as const;
        })}
        onChange={setChosen}
      />
      <section>
        <div className="head-line">
          <h3>Curve of the {ink} plate</h3>
          <span className="answers">
            <button
              type="button"
              className="quiet-button"
              disabled={!plateTouched(plate)}
              onClick={() => control.keep(withPlate(untouched(ink)))}
            >
              Leave alone
            </button>
            <button
              type="button"
              className="quiet-button"
              onClick={() => control.keep(withPlate(plate, true))}
            >
              Same on all
            </button>
          </span>
        </div>
        <CurveEditor
          label={`plate ${ink}`}
          points={plate.curve.points}
          color={inkColor(ink)}
          axes={["separated %", "on plate %"]}
          onMove={(points) => change({ curve: { points } })}
          onRest={(points) => keep({ curve: { points } })}
        />
      </section>
      <section style={{ gap: 0 }}>
        <SliderSetting
          label="Bump"
          value={plate.bump_percent}
          min={0}
          max={20}
          step={0.5}
          text={percent(plate.bump_percent, 1)}
          onMove={(bump_percent) => change({ bump_percent })}
          onRest={(bump_percent) => keep({ bump_percent })}
        />
        <Choice
          label="Minimum dot"
          value={plate.smallest}
          options={[
            ["keep", "None"],
            ["raise", "Raise to it"],
            ["cut", "Drop below"],
          ]}
          onChange={(smallest) => keep({ smallest, smallest_percent: plate.smallest_percent || 3 })}
        />
        {plate.smallest !== "keep" && (
          <SliderSetting
            label={plate.smallest === "raise" ? "to at least" : "below"}
            value={plate.smallest_percent}
            min={0}
            max={20}
            step={0.5}
            text={percent(plate.smallest_percent, 1)}
            onMove={(smallest_percent) => change({ smallest_percent })}
            onRest={(smallest_percent) => keep({ smallest_percent })}
          />
        )}
        <SliderSetting
          label="Deepest shadow"
          value={plate.shadow_percent}
          min={60}
          max={100}
          text={percent(plate.shadow_percent)}
          onMove={(shadow_percent) => change({ shadow_percent })}
          onRest={(shadow_percent) => keep({ shadow_percent })}
        />
      </section>
      <section>
        <h3>
          <SettingName name="Gain of this press" />
        </h3>
        <textarea
          className="field"
          rows={3}
          placeholder={"25  34\n50  66\n75  86"}
          aria-label="Gain table: dot on plate, dot printed"
          value={gain}
          onChange={(event) => setGain(event.target.value)}
          onBlur={() => parsed && gain !== written && keep({ gain: parsed })}
        />
        <p className={parsed ? "soft" : "notice"}>
          {parsed
            ? "A row each: dot on the plate, dot this press makes of it beyond what the condition knows. It is taken back on the plate, and the proof shows the print after it."
            : "Write two percentages a row, both rising, like 50 66."}
        </p>
      </section>
      <div className="ink-figures">
        <GrayAxisPlot figures={figures} space={artwork.space} />
      </div>
      <KeptSettings
        station="plate"
        word="plate settings"
        inks={condition.inks}
        recipe={recipe}
        onUse={(kept) => control.keep({ ...recipe, plate: kept.plate })}
      />
      <div className="foot">
        <SeparateButton artwork={artwork} condition={condition} recipe={recipe} viewState={viewState} />
      </div>
    </>
  );
}
