import type { Characterization, Step, useStepActions } from "../../api/characterizationQueries";

/** What every step of a characterization is given. */
export interface StepProps {
  found: Characterization;
  step: Step;
  actions: ReturnType<typeof useStepActions>;
  go: (step: string) => void;
}
