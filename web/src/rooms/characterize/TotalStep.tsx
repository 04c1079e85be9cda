import Button from "@mui/material/Button";
import { useState } from "react";
import { fixed, percent } from "../../shared/figures";
import { LinePlot } from "../../shared/plots/LinePlot";
import { Measuring } from "./Measuring";
import type { StepProps } from "./StepProps";

/** The staircase as measured; the total is dragged on it. */
export function TotalStep(props: StepProps) {
  const { found, step, actions, go } = props;
  const rows = step.result.steps;
  const enough = step.result.enough_percent ?? 0;
  const [moving, setMoving] = useState<number>();
  const chosen = moving ?? step.settings.total_percent ?? enough;
  const decide = (total_percent: number | null) =>
    actions.decide.mutate(
      { step: "total", settings: { total_percent } },
      { onSettled: () => setMoving(undefined) },
    );
  const most = Math.max(...rows.map((row) => row.total_percent), 100);
  const hold = (value: number) => Math.min(Math.max(Math.round(value), 50), 100 * found.inks.length);
  return (
    <>
      <Measuring {...props} name="the staircase" />
      {rows.length > 0 && (
        <>
          <div className="condition-plots">
            <LinePlot
              title="Darkness by total ink"
              note="drag the limit, or move it by arrow keys"
              x={{ name: "total ink", unit: "%", range: [0, most] }}
              y={{ name: "L*", range: [0, 100] }}
              dots
              lines={[
                {
                  name: "",
                  color: "var(--ink)",
                  points: rows.map((row) => [row.total_percent, row.lightness]),
                },
              ]}
              handles={[
                {
                  name: "Total ink",
                  at: chosen,
                  text: percent(chosen),
                  onMove: (value) => setMoving(hold(value)),
                  onRest: (value) => decide(hold(value)),
                },
              ]}
            />
            <table className="table narrow">
              <thead>
                <tr>
                  <th className="number">Total</th>
                  <th className="number">L*</th>
                  <th className="number">C*</th>
                </tr>
              </thead>
              <tbody>
                {rows.slice(-9).map((row) => (
                  <tr key={row.total_percent} className={row.total_percent === enough ? "strong" : ""}>
                    <td className="number">{percent(row.total_percent)}</td>
                    <td className="number">{fixed(row.lightness)}</td>
                    <td className="number">{fixed(row.chroma)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <p>
            From {percent(enough)} on it gets no darker by more than half an L*. Taken: {percent(chosen)}.
          </p>
          <div className="answers">
            <Button
              variant="contained"
              disabled={step.state !== "done" || actions.decide.isPending}
              onClick={() => go("chart")}
            >
              Go on to the chart
            </Button>
            {chosen !== enough && (
              <Button onClick={() => decide(null)}>Use {percent(enough)} as measured</Button>
            )}
          </div>
        </>
      )}
    </>
  );
}
