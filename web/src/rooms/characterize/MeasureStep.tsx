import Button from "@mui/material/Button";
import { lab } from "../../shared/figures";
import { Measuring } from "./Measuring";
import type { StepProps } from "./StepProps";

/** The chart read patch by patch. */
export function MeasureStep(props: StepProps) {
  const { step, go } = props;
  const substrate = step.result.substrate_lab;
  return (
    <>
      <Measuring {...props} name="the chart" />
      {substrate.length > 0 && (
        <>
          <p>Substrate, absolute L*a*b* {lab(substrate)}</p>
          <div className="answers">
            <Button variant="contained" disabled={step.state !== "done"} onClick={() => go("build")}>
              Go on to build
            </Button>
          </div>
        </>
      )}
    </>
  );
}
