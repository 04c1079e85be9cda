import Button from "@mui/material/Button";
import { useState } from "react";
import { percent } from "../../shared/figures";
import { inkColor } from "../../shared/inks";
import { LinePlot } from "../../shared/plots/LinePlot";
import { Choice } from "../../shared/ui/Choice";
import { SliderSetting } from "../../shared/ui/SliderSetting";
import { Advice } from "./Advice";
import { Measuring } from "./Measuring";
import { even, ramp } from "./ramps";
import type { StepProps } from "./StepProps";

const USUAL = [35, 80, 15];

/** Where light ink stops and dark ink takes over: dragged on the curves. */
export function CrossingStep(props: StepProps) {
  const { step, actions, go, found } = props;
  const { result } = step;
  const pairs = result.calibration?.curves.filter((curve) => curve.light_ink) ?? [];
  const [ink, setInk] = useState(pairs[0]?.ink ?? "");
  const kept = step.settings.crossings;
  const [moving, setMoving] = useState<number[]>();
  const [start = 35, stop = 80, hold = 15] = moving ?? kept[ink]?.map((value) => value * 100) ?? USUAL;
  const curve = pairs.find((each) => each.ink === ink);
  const rest = (values: number[]) => {
    setMoving(values);
    actions.decide.mutate(
      {
        step: "crossing",
        settings: { ...step.settings, crossings: { ...kept, [ink]: values.map((value) => value / 100) } },
      },
      { onSettled: () => setMoving(undefined) },
    );
  };
  const held = (value: number, low: number, high: number) => Math.min(Math.max(value, low), high);
  return (
    <>
      <Measuring {...props} name={`the ramps of ${found.device_inks.length} inks`} />
      {curve && (
        <>
          <Choice
            label="Ink"
            value={ink}
            options={pairs.map((each) => [each.ink, `${each.ink} and ${each.light_ink}`])}
            onChange={setInk}
          />
          <div className="condition-plots">
            <LinePlot
              title={`${curve.ink} and its light ink over the tone of both`}
              note="drag where dark starts and light stops, or move it by arrow keys"
              x={{ name: "tone of both", unit: "%", range: [0, 100] }}
              y={{ name: "dot", unit: "%", range: [0, 100] }}
              lines={[
                { name: curve.ink, color: inkColor(curve.ink), points: even(curve.dark) },
                { name: curve.light_ink, color: inkColor(curve.light_ink), points: even(curve.light) },
              ]}
              handles={[
                {
                  name: `${curve.ink} from`,
                  at: start,
                  text: `dark from ${percent(start)}`,
                  onMove: (value) => setMoving([held(value, 5, stop - 5), stop, hold]),
                  onRest: (value) => rest([held(value, 5, stop - 5), stop, hold]),
                },
                {
                  name: `${curve.light_ink} until`,
                  at: stop,
                  text: `light to ${percent(stop)}`,
                  onMove: (value) => setMoving([start, held(value, start + 5, 100), hold]),
                  onRest: (value) => rest([start, held(value, start + 5, 100), hold]),
                },
              ]}
            />
            <LinePlot
              title={`Measured density of ${curve.ink} and ${curve.light_ink} alone`}
              x={{ name: "dot", unit: "%", range: [0, 100] }}
              y={{
                name: "density above paper",
                range: [0, Math.max(...ramp(result, curve.ink).map((row) => row.density), 1)],
              }}
              digits={2}
              dots
              lines={[curve.ink, curve.light_ink].map((each) => ({
                name: each,
                color: inkColor(each),
                points: ramp(result, each).map((row) => [row.dot_percent, row.density] as [number, number]),
              }))}
            />
          </div>
          <SliderSetting
            label="Light ink held"
            value={hold}
            min={0}
            max={60}
            text={percent(hold)}
            onMove={(value) => setMoving([start, stop, value])}
            onRest={(value) => rest([start, stop, value])}
          />
          <p className="soft">A little light ink held to the end covers the gaps between dark dots.</p>
          <Advice lines={result.advice} />
          <div className="answers">
            <Button
              variant="contained"
              disabled={step.state !== "done" || actions.decide.isPending}
              onClick={() => go("linearize")}
            >
              Go on to linearize
            </Button>
          </div>
        </>
      )}
    </>
  );
}
