import Button from "@mui/material/Button";
import { useState } from "react";
import type { StepSettings } from "../../api/characterizationQueries";
import { percent } from "../../shared/figures";
import { SliderSetting } from "../../shared/ui/SliderSetting";
import type { StepProps } from "./StepProps";

/** The panel, the room's light, and what each panel leaves of the gamut. */
export function LightStep({ step, actions, go }: StepProps) {
  const panels = step.result.panels;
  const [ambient, setAmbient] = useState(step.settings.ambient_percent ?? 0);
  const chosen = step.settings.panel;
  const keep = (settings: StepSettings) =>
    actions.decide.mutate({ step: "light", settings: { ...step.settings, ...settings } });
  const names = Object.keys(panels);
  return (
    <>
      <SliderSetting
        label="Room light"
        value={ambient}
        min={0}
        max={100}
        text={percent(ambient)}
        onMove={setAmbient}
        onRest={(value) => keep({ ambient_percent: value })}
      />
      {names.length === 0 && (
        <Button variant="contained" onClick={() => keep({})}>
          Read the light table, off and on
        </Button>
      )}
      {names.length > 0 && (
        <table className="table">
          <thead>
            <tr>
              <th>Panel</th>
              <th className="number">Gamut of the patches, D50 in the dark is 100 %</th>
              <th>
                <span className="visually-hidden">Figure</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {names.map((name) => (
              <tr key={name}>
                <td className={name === chosen ? "strong" : ""}>{name}</td>
                <td className="number">
                  {typeof panels[name] === "number"
                    ? percent(panels[name] ?? 0, 1)
                    : "once ramps are measured"}
                </td>
                <td>
                  {name === chosen ? (
                    "chosen"
                  ) : (
                    <Button onClick={() => keep({ panel: name })}>Use this panel</Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {chosen && (
        <div className="answers">
          <Button variant="contained" onClick={() => go("crossing")}>
            Go on
          </Button>
        </div>
      )}
    </>
  );
}
