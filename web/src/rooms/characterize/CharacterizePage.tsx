import "./characterize.css";
import "./CharacterizePage.css";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { useCharacterization, useDevices, useStepActions } from "../../api/characterizationQueries";
import { drivenByRgb, inkNames } from "../../shared/inks";
import { NotHere } from "../../shared/ui/NotHere";
import { BuildStep } from "./BuildStep";
import { ChartStep } from "./ChartStep";
import { CrossingStep } from "./CrossingStep";
import { JudgeStep } from "./JudgeStep";
import { LightStep } from "./LightStep";
import { LinearizeStep } from "./LinearizeStep";
import { MeasureStep } from "./MeasureStep";
import type { StepProps } from "./StepProps";
import { TotalStep } from "./TotalStep";
import { STATE_WORDS, STEP_WORDS } from "./words";

const PANELS: Record<string, (props: StepProps) => React.ReactNode> = {
  light: LightStep,
  crossing: CrossingStep,
  linearize: LinearizeStep,
  total: TotalStep,
  chart: ChartStep,
  measure: MeasureStep,
  build: BuildStep,
  judge: JudgeStep,
};

/** The path from a medium to a judged profile on one page; where one left off is where one goes on. */
export function CharacterizePage() {
  const { id = "" } = useParams();
  const navigate = useNavigate();
  const [params, setParams] = useSearchParams();
  const found = useCharacterization(Number(id));
  const queries = useQueryClient();
  const actions = useStepActions(Number(id));
  const devices = useDevices();
  const steps = found.data?.steps ?? [];
  const next = (steps.find((step) => step.state !== "done") ?? steps[steps.length - 1])?.step;
  const asked = params.get("step");
  useEffect(() => {
    // The step stays the one that was begun with: what has just been measured is to be looked at, not passed.
    if (!asked && next) setParams({ step: next }, { replace: true });
  }, [asked, next, setParams]);
  const built = found.data?.condition_slug;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a profile that was built has made a condition
  useEffect(() => {
    void queries.invalidateQueries({ queryKey: ["conditions"] });
  }, [built, queries]);
  if (found.error) return <NotHere title="Characterization">{found.error.message}</NotHere>;
  if (!found.data) return <p className="room soft">Opening the characterization</p>;
  const current = steps.find((step) => step.step === asked) ?? steps.find((step) => step.step === next);
  if (!current) return null;
  const device = devices.data?.find((each) => each.slug === found.data.device_slug);
  const Panel = PANELS[current.step];
  const go = (step: string) => setParams({ step });
  return (
    <main className="room characterize">
      <header>
        <div>
          <h1 tabIndex={-1}>{found.data.name}</h1>
          <p className="soft">
            {device ? `${device.name}: ${device.process}` : "Measured elsewhere"}.{" "}
            {drivenByRgb(found.data.inks) ? "Driven by RGB" : `Inks ${inkNames(found.data.device_inks)}`}. It
            can be gone on with at any time.
          </p>
        </div>
        <div className="answers">
          <button
            type="button"
            className="quiet-button"
            onClick={() => actions.remove.mutate(undefined, { onSuccess: () => navigate("/conditions") })}
          >
            Remove
          </button>
        </div>
      </header>
      <div className="path">
        <ol aria-label="Steps">
          {steps.map((step, at) => (
            <li key={step.step} data-state={step.state}>
              <button
                type="button"
                aria-current={step === current ? "step" : undefined}
                onClick={() => go(step.step)}
              >
                <b>
                  {at + 1} {STEP_WORDS[step.step]?.name}
                </b>
                <small>{STATE_WORDS[step.state]}</small>
              </button>
            </li>
          ))}
        </ol>
        <section className="step" aria-label={STEP_WORDS[current.step]?.name}>
          <p className="soft">{STEP_WORDS[current.step]?.purpose}</p>
          {current.state === "stale" && (
            <p className="notice">
              Something before this step changed after it was done. Do it again, or its result no longer
              belongs to what is printed.
            </p>
          )}
          {actions.error && (
            <p className="notice" role="alert">
              {actions.error.message}
            </p>
          )}
          {Panel && (
            <Panel
              key={`${current.step} ${current.measured_at}`}
              found={found.data}
              step={current}
              actions={actions}
              go={go}
            />
          )}
        </section>
      </div>
    </main>
  );
}
