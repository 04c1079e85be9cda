import Button from "@mui/material/Button";
import { useState } from "react";
import type { StepSettings } from "../../api/characterizationQueries";
import { fixed, percent } from "../../shared/figures";
import { inkColor } from "../../shared/inks";
import { LinePlot } from "../../shared/plots/LinePlot";
import { Choice } from "../../shared/ui/Choice";
import { Advice } from "./Advice";
import { Measuring } from "./Measuring";
import { even, ramp } from "./ramps";
import type { StepProps } from "./StepProps";

/** Each ink capped where its density stops rising, and made even; as graph and numbers. */
export function LinearizeStep(props: StepProps) {
  const { found, step, actions, go } = props;
  const { result } = step;
  const [ink, setInk] = useState(found.inks[0] ?? "");
  const [moving, setMoving] = useState<number>();
  const caps = step.settings.caps;
  const gain = step.settings.gain_percent;
  const rows = ramp(result, ink);
  const cap = moving ?? result.caps[ink] ?? 100;
  const curve = result.calibration?.curves.find((each) => each.ink === ink);
  const decide = (settings: StepSettings) =>
    actions.decide.mutate(
      { step: "linearize", settings: { ...step.settings, ...settings } },
      { onSettled: () => setMoving(undefined) },
    );
  return (
    <>
      <Measuring {...props} name={`a ramp of ${found.inks.join(" ")}`} />
      {rows.length > 0 && (
        <>
          <div className="answers">
            <Choice
              bare
              label="Ink"
              value={ink}
              options={found.inks.map((each) => [each, each])}
              onChange={setInk}
            />
            <Choice
              bare
              label="Aim of the curves"
              value={typeof gain === "number" ? "gain" : "even"}
              options={[
                ["even", "Even steps of color"],
                ["gain", "Dot gain of 16 %"],
              ]}
              onChange={(aim) => decide({ gain_percent: aim === "gain" ? 16 : null })}
            />
          </div>
          <div className="condition-plots">
            <LinePlot
              title={`${ink} as measured`}
              note="drag the ink limit, or move it by arrow keys"
              x={{ name: "dot", unit: "%", range: [0, 100] }}
              y={{
                name: "density above paper",
                range: [0, Math.max(...rows.map((row) => row.density), 0.5) * 1.05],
              }}
              digits={2}
              dots
              lines={[
                {
                  name: ink,
                  color: inkColor(ink),
                  points: rows.map((row) => [row.dot_percent, row.density]),
                },
              ]}
              handles={[
                {
                  name: `Ink limit of ${ink}`,
                  at: cap,
                  text: `at most ${percent(cap)}`,
                  onMove: (value) => setMoving(Math.max(value, 5)),
                  onRest: (value) => {
                    setMoving(Math.max(value, 5));
                    decide({ caps: { ...caps, [ink]: Math.max(value, 5) } });
                  },
                },
              ]}
            />
            {curve && (
              <LinePlot
                title={`${ink} from here on`}
                x={{ name: "asked", unit: "%", range: [0, 100] }}
                y={{ name: "laid down", unit: "%", range: [0, 100] }}
                lines={[
                  { name: curve.ink, color: inkColor(curve.ink), points: even(curve.dark) },
                  ...(curve.light_ink
                    ? [{ name: curve.light_ink, color: inkColor(curve.light_ink), points: even(curve.light) }]
                    : []),
                ]}
              />
            )}
          </div>
          <table className="table narrow">
            <thead>
              <tr>
                <th className="number">Ink</th>
                <th className="number">Ink limit</th>
                <th className="number">Off a smooth curve, most</th>
                <th className="number">Density of the solid</th>
                <th className="number">L* of the solid</th>
              </tr>
            </thead>
            <tbody>
              {Object.entries(result.ramps).map(([each, measured]) => (
                <tr key={each}>
                  <td className="number strong">{each}</td>
                  <td className="number">{percent(result.caps[each] ?? 100, 1)}</td>
                  <td className="number">{percent(result.bulges[each] ?? 0, 1)}</td>
                  <td className="number">{fixed(measured.at(-1)?.density ?? 0, 2)}</td>
                  <td className="number">{fixed(measured.at(-1)?.lightness ?? 0)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <details>
            <summary>Numbers of {ink}</summary>
            <table className="table narrow" aria-label={`Numbers of ${ink}`}>
              <thead>
                <tr>
                  <th className="number">Dot %</th>
                  <th className="number">Density</th>
                  <th className="number">L*</th>
                </tr>
              </thead>
              <tbody>
                {rows.map((row) => (
                  <tr key={row.dot_percent}>
                    <td className="number">{fixed(row.dot_percent, 0)}</td>
                    <td className="number">{fixed(row.density, 3)}</td>
                    <td className="number">{fixed(row.lightness)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </details>
          <Advice lines={result.advice} />
          <div className="answers">
            <Button
              variant="contained"
              disabled={step.state !== "done" || actions.decide.isPending}
              onClick={() => go("total")}
            >
              Go on to total ink
            </Button>
          </div>
        </>
      )}
    </>
  );
}
