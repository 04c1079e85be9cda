import Button from "@mui/material/Button";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import type { Condition } from "../../api/client";
import { useNumbersActions } from "../../api/conditionQueries";
import { useRuns } from "../../api/queries";
import { MEASUREMENT_FILES } from "../../shared/measurementFiles";
import { FileInput } from "../../shared/ui/FileInput";
import { RunLine } from "../../shared/ui/RunLine";

/** A condition from numbers says so, and how a few measured patches make it a measured one. */
export function CorrectNumbers({ condition }: { condition: Condition }) {
  const input = useRef<HTMLInputElement>(null);
  const { correct } = useNumbersActions();
  const [runId, setRunId] = useState<number>();
  const run = useRuns().data?.find((each) => each.id === runId);
  const queries = useQueryClient();
  const done = run?.state === "done";
  useEffect(() => {
    if (done) void queries.invalidateQueries({ queryKey: ["conditions"] });
  }, [done, queries]);
  return (
    <section className="notice">
      <p>
        <b>From numbers.</b> Two dozen patches, printed and measured, move it: on the demo's presses its mean
        error fell from about 2 ΔE00 to half of one.
      </p>
      <div className="run-links">
        <a href={`/api/conditions/${condition.slug}/numbers/patches`}>Patches to print (CGATS)</a>
        <a href={`/api/conditions/${condition.slug}/numbers`} download={`${condition.name}.json`}>
          Its numbers
        </a>
      </div>
      <Button onClick={() => input.current?.click()}>Import measured patches</Button>
      <FileInput
        at={input}
        label="Measured patches"
        accept={MEASUREMENT_FILES}
        onFile={(file) =>
          correct.mutate({ slug: condition.slug, file }, { onSuccess: (made) => setRunId(made.run_id) })
        }
      />
      {correct.error && <p role="alert">{correct.error.message}</p>}
      {run && <RunLine run={run} />}
      {done && run?.condition_slug && (
        <p role="status">
          A condition of its own, corrected: <Link to={`/conditions/${run.condition_slug}`}>see it</Link>
        </p>
      )}
    </section>
  );
}
