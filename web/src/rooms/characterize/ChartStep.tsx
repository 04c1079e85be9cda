import Button from "@mui/material/Button";
import { useState } from "react";
import { FileLink } from "../../shared/ui/FileLink";
import { SliderSetting } from "../../shared/ui/SliderSetting";
import type { StepProps } from "./StepProps";

/** How many patches, and the pages to print. */
export function ChartStep({ found, step, actions, go }: StepProps) {
  const least = (found.inks.length + 1) * (found.inks.length + 2);
  const [patches, setPatches] = useState(step.settings.patches ?? 1000);
  const keep = (count: number) => actions.decide.mutate({ step: "chart", settings: { patches: count } });
  const take = () => {
    keep(patches);
    // Not when it has been kept: by then one may have gone elsewhere, and would be fetched back.
    go("measure");
  };
  return (
    <>
      <SliderSetting
        label="Patches"
        value={patches}
        min={least}
        max={3000}
        step={10}
        text={String(patches)}
        onMove={setPatches}
        onRest={(count) => {
          setPatches(count);
          // At once, so that the chart to print is the one that is shown.
          keep(count);
        }}
      />
      <p className="soft">
        Ramps, overprints and grays first, then an even fill. A thousand patches are enough for four inks on
        an even press, or for R, G and B; more help where dots grow unevenly, and with more inks.
      </p>
      <div className="answers">
        <Button variant="contained" onClick={take}>
          Use this chart
        </Button>
        <FileLink href={`/api/characterizations/${found.id}/steps/chart/sheet.pdf`}>
          Chart to print (PDF)
        </FileLink>
        <FileLink href={`/api/characterizations/${found.id}/steps/chart/sheet.txt`}>
          For the instrument (CGATS)
        </FileLink>
      </div>
    </>
  );
}
