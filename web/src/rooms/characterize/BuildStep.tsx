import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import { Link } from "react-router";
import { usePresets } from "../../api/conditionQueries";
import { useRuns } from "../../api/queries";
import { percent } from "../../shared/figures";
import { drivenByRgb } from "../../shared/inks";
import { PerceptualStyle, type Style } from "../../shared/ui/PerceptualStyle";
import { RunLine } from "../../shared/ui/RunLine";
import { SettingName } from "../../shared/ui/SettingName";
import { SliderSetting } from "../../shared/ui/SliderSetting";
import type { StepProps } from "./StepProps";

/** Of prints under D50 nothing but colors need be known; for any other light spectra have to be. */
const LIGHTS = ["D50", "D55", "D65", "A", "F2", "F11"] as const;
type Light = (typeof LIGHTS)[number];

const FITS: [number | null, string][] = [
  [null, "as patches kept back say"],
  [1e-8, "exact: each as measured"],
  [1e-6, "a little smooth"],
  [1e-4, "smooth"],
];

/** Name, limit and black to begin with; the profile can be tuned afterwards, with everything live. */
export function BuildStep({ found, step, actions, go }: StepProps) {
  const presets = usePresets();
  const runs = useRuns();
  const total = found.steps.find((each) => each.step === "total");
  const read = total?.settings.total_percent ?? total?.result.enough_percent ?? 300;
  const [name, setName] = useState(step.settings.name ?? found.name);
  const [limit, setLimit] = useState(read);
  const [style, setStyle] = useState<Style>(step.settings.style ?? "steady");
  const [light, setLight] = useState<Light>(step.settings.light ?? "D50");
  const [smoothing, setSmoothing] = useState(step.settings.smoothing ?? null);
  const [process, setProcess] = useState("offset-coated");
  const run = runs.data?.find((each) => each.id === step.run_id);
  const slug = step.result.slug;
  const preset = presets.data?.find((each) => each.key === process);
  return (
    <>
      <TextField
        size="small"
        label="Name of the profile"
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      {!drivenByRgb(found.inks) && (
        <SliderSetting
          label="Total ink"
          value={limit}
          min={60}
          max={Math.min(100 * found.inks.length, 400)}
          mark={read}
          text={percent(limit)}
          onMove={setLimit}
          onRest={setLimit}
        />
      )}
      {found.inks.includes("K") && presets.data && (
        <div className="setting wide">
          <SettingName name="Black like" />
          <select
            className="plain-input"
            value={process}
            onChange={(e) => setProcess(e.target.value)}
            aria-label="Black like"
          >
            {presets.data.map((each) => (
              <option key={each.key} value={each.key}>
                {each.name}: {each.black.amount_percent} % from {each.black.start_percent} %
              </option>
            ))}
          </select>
        </div>
      )}
      <PerceptualStyle value={style} onChange={setStyle} />
      <div className="setting wide">
        <SettingName name="Fit of the patches" />
        <select
          className="plain-input"
          aria-label="Fit of the patches"
          value={smoothing ?? ""}
          onChange={(e) => setSmoothing(e.target.value ? Number(e.target.value) : null)}
        >
          {FITS.map(([value, word]) => (
            <option key={word} value={value ?? ""}>
              {word}
            </option>
          ))}
        </select>
      </div>
      <div className="setting wide">
        <SettingName name="Viewing light" />
        <select
          className="plain-input"
          aria-label="Viewing light"
          value={light}
          onChange={(e) => setLight(LIGHTS.find((each) => each === e.target.value) ?? "D50")}
        >
          {LIGHTS.map((each) => (
            <option key={each} value={each}>
              {each}
            </option>
          ))}
        </select>
      </div>
      <div className="answers">
        <Button
          variant={slug ? "outlined" : "contained"}
          disabled={step.state === "measuring" || actions.build.isPending}
          onClick={() =>
            actions.build.mutate({
              name,
              style,
              light,
              smoothing,
              limits: { total_percent: limit, per_ink_percent: [] },
              ...(found.inks.includes("K") && preset ? { black: preset.black } : {}),
            })
          }
        >
          {slug ? "Build it again" : "Build the profile"}
        </Button>
        {slug && (
          <>
            <Button variant="contained" onClick={() => go("judge")}>
              Go on to judge
            </Button>
            <Link to={`/conditions/${slug}/build`}>Tune it, with everything live</Link>
          </>
        )}
      </div>
      {run && <RunLine run={run} />}
    </>
  );
}
