import Button from "@mui/material/Button";
import { Link } from "react-router";
import { useJudgement } from "../../api/conditionQueries";
import { useConditions } from "../../api/queries";
import { fixed, lab, percent } from "../../shared/figures";
import { RoundTripMap } from "../../shared/plots/RoundTripMap";
import type { StepProps } from "./StepProps";

/** The figures that decide, and the decision. */
export function JudgeStep({ found, step, actions }: StepProps) {
  const slug = found.condition_slug;
  const condition = useConditions().data?.find((each) => each.slug === slug);
  if (!slug) return <p className="soft">There is no profile yet: build it first.</p>;
  if (!condition) return <p className="soft">Its condition is not here any more. Build it again.</p>;
  return <Figures slug={slug} found={found} step={step} actions={actions} />;
}

function Figures({ slug, step, actions }: Pick<StepProps, "found" | "step" | "actions"> & { slug: string }) {
  const judged = useJudgement(slug);
  const found = judged.data;
  if (judged.error) return <p className="notice">{judged.error.message}</p>;
  if (!found) return <p className="soft">Judging the profile</p>;
  return (
    <>
      <div className="totals condition-totals">
        <div>
          <b>{fixed(found.round_trip_mean, 2)}</b>round trip ΔE00, mean
        </div>
        <div>
          <b>{fixed(found.round_trip_p99, 2)}</b>99 % below
        </div>
        <div>
          <b>{fixed(found.max_neutral_chroma, 2)}</b>C* off neutral at most
        </div>
        <div>
          <b>{percent(found.most_ink_percent)}</b>most ink in its tables
        </div>
        <div>
          <b>{lab(found.black_lab)}</b>black, L*a*b*
        </div>
      </div>
      <div className="condition-plots">
        <RoundTripMap rows={found.round_trip_map} />
      </div>
      <div className="answers">
        {step.state === "done" ? (
          <span className="strong">Trusted. It is on the Bench with all others.</span>
        ) : (
          <Button variant="contained" onClick={() => actions.judge.mutate()}>
            Trust this profile
          </Button>
        )}
        <Link to={`/conditions/${slug}`}>All that there is to judge</Link>
        <a href={`/api/conditions/${slug}/report.html`} target="_blank" rel="noreferrer">
          Report to print
        </a>
      </div>
    </>
  );
}
