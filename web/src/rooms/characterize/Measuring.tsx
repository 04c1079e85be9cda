import "./Measuring.css";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import { useRef } from "react";
import { useCancelRun, useRuns } from "../../api/queries";
import { counted, moment, percent } from "../../shared/figures";
import { MEASUREMENT_FILES } from "../../shared/measurementFiles";
import { FileInput } from "../../shared/ui/FileInput";
import { FileLink } from "../../shared/ui/FileLink";
import type { StepProps } from "./StepProps";

/** Printing, measuring and loading of a step, with the patches as they are read. */
export function Measuring({ found, step, actions, name }: StepProps & { name: string }) {
  const input = useRef<HTMLInputElement>(null);
  const runs = useRuns();
  const cancel = useCancelRun();
  const run = runs.data?.find((each) => each.id === step.run_id);
  const under = step.state === "measuring";
  const address = `/api/characterizations/${found.id}/steps/${step.step}`;
  return (
    <div className="measuring">
      <div className="answers">
        {found.device_slug && !under && (
          <Button
            variant={step.state === "done" ? "outlined" : "contained"}
            disabled={actions.measure.isPending || actions.decide.isPending}
            onClick={() => actions.measure.mutate(step.step)}
          >
            {step.live.length ? `Print and measure ${name} again` : `Print and measure ${name}`}
          </Button>
        )}
        {!under && <Button onClick={() => input.current?.click()}>Load measurements</Button>}
        <FileLink href={`${address}/sheet.pdf`}>Chart to print (PDF)</FileLink>
        <FileLink href={`${address}/sheet.txt`}>For the instrument (CGATS)</FileLink>
        {step.result.calibration && (
          <FileLink href={`${address}/sheet.pdf?check=1`}>Check to print (PDF)</FileLink>
        )}
        <FileInput
          at={input}
          label="Measurements of this step"
          accept={MEASUREMENT_FILES}
          onFile={(file) => actions.load.mutate({ step: step.step, file })}
        />
      </div>
      {under && (
        <div className="run-progress">
          <LinearProgress variant="determinate" value={(run?.progress ?? 0) * 100} aria-label="Measured" />
          <span>{percent((run?.progress ?? 0) * 100)}</span>
          {run && (
            <Button variant="text" onClick={() => cancel.mutate(run.id)}>
              Cancel
            </Button>
          )}
        </div>
      )}
      {run?.state === "failed" && !under && <p className="notice">{run.message}</p>}
      <Patches live={step.live} />
      {step.measured_at && (
        <p className="soft">
          {counted(step.live.length, "patch", "patches")}, measured {moment(step.measured_at)}
        </p>
      )}
    </div>
  );
}

/** Patches as read so far, in the order of the chart. */
function Patches({ live }: { live: number[] }) {
  if (live.length === 0) return null;
  const columns = live.length > 400 ? 60 : 42;
  return (
    <div
      className="patches"
      style={{ gridTemplateColumns: `repeat(${columns}, 1fr)` }}
      role="img"
      aria-label={counted(live.length, "patch", "patches")}
    >
      {live.map((code, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a patch is its place in the chart
        <i key={at} style={{ background: `#${code.toString(16).padStart(6, "0")}` }} />
      ))}
    </div>
  );
}
