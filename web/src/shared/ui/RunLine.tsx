import "./RunLine.css";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import type { Run } from "../../api/client";
import { useCancelRun, useMakeAgain } from "../../api/queries";
import { bytes, lasting, moment, percent } from "../figures";

const STATES: Record<string, string> = {
  queued: "waiting",
  running: "under way",
  done: "done",
  failed: "failed",
  cancelled: "cancelled",
};

const KINDS: Record<string, string> = { tif: "TIFF", jpg: "JPEG", pdf: "PDF", zip: "ZIP", icc: "ICC" };

const KIND_WORDS: Record<string, string> = {
  profile: "made into a profile",
  measure: "measured",
  intake: "opened",
  version: "in a new version",
  reading: "read for an output",
};

/** What is left of a run, once enough of it is done to tell. */
function left(run: Run): string {
  if (!run.began_at || run.progress < 0.05) return "";
  const spent = (Date.now() - Date.parse(run.began_at)) / 1000;
  return spent > 3 ? `, about ${lasting((spent * (1 - run.progress)) / run.progress)} left` : "";
}

/** One run: how far it is, a way to stop it, and what came out. */
export function RunLine({ run, wide = false }: { run: Run; wide?: boolean }) {
  const cancel = useCancelRun();
  const kind = KINDS[run.file_name.split(".").pop() ?? ""] ?? "the file";
  const moving = run.state === "queued" || run.state === "running";
  const sheet = run.figures;
  // Of many lines in a list, each control says which one it is for.
  const of = wide ? ` of ${run.file_name}, ${moment(run.asked_at)}` : "";
  return (
    <div className="run" data-run={run.id} data-state={run.state}>
      <div className="run-head">
        <span className="strong">{run.file_name}</span>
        <span className="soft">
          {STATES[run.state]}
          {run.state === "running" && ` ${percent(run.progress * 100)}${left(run)}`}
        </span>
      </div>
      {wide && (
        <div className="soft">
          {run.artwork_name} {KIND_WORDS[run.kind] ?? `for ${run.condition_name}`}, asked{" "}
          {moment(run.asked_at)}
          {run.asked_by && ` by ${run.asked_by}`}
          {run.again_of_id !== null && ", once more from its run sheet"}
        </div>
      )}
      {moving && (
        <div className="run-progress">
          <LinearProgress
            variant="determinate"
            value={run.progress * 100}
            aria-label={`Progress of ${run.file_name}`}
          />
          <Button variant="text" aria-label={`Cancel${of}`} onClick={() => cancel.mutate(run.id)}>
            Cancel
          </Button>
        </div>
      )}
      {run.message && <div className={run.state === "failed" ? "notice" : "soft"}>{run.message}</div>}
      {run.has_file && run.kind === "profile" && run.condition_slug && (
        <div className="run-links">
          <a href={`/api/runs/${run.id}/file`} aria-label={`Download ICC${of}`}>
            Download ICC
          </a>
        </div>
      )}
      {run.state === "done" && run.kind === "document" && (
        <>
          {run.has_file && <div className="soft">{bytes(run.result_bytes)}</div>}
          <div className="run-links">
            {run.has_file && (
              <a href={`/api/runs/${run.id}/file`} aria-label={`Download PDF${of}`}>
                Download PDF
              </a>
            )}
            <a href={`/runs/${run.id}/sheet`} target="_blank" rel="noreferrer" aria-label={`Report${of}`}>
              Report
            </a>
            <a href={`/api/runs/${run.id}/sheet`} aria-label={`JSON${of}`}>
              JSON
            </a>
            {wide && <MakeAgain run={run} of={of} />}
          </div>
        </>
      )}
      {run.state === "done" && run.kind === "separation" && (
        <>
          <div className="soft">
            {run.has_file && `${bytes(run.result_bytes)}, `}
            {sheet && `largest coverage ${percent(sheet.largest_coverage_percent, 1)}`}
            {sheet &&
              sheet.total_ink_limit_percent !== null &&
              ` of ${percent(sheet.total_ink_limit_percent)}`}
          </div>
          <div className="run-links">
            {run.has_file && (
              <a href={`/api/runs/${run.id}/file`} aria-label={`Download ${kind}${of}`}>
                Download {kind}
              </a>
            )}
            <a href={`/runs/${run.id}/sheet`} target="_blank" rel="noreferrer" aria-label={`Run sheet${of}`}>
              Run sheet
            </a>
            <a href={`/api/runs/${run.id}/sheet`} aria-label={`JSON${of}`}>
              JSON
            </a>
            {wide && <MakeAgain run={run} of={of} />}
          </div>
        </>
      )}
    </div>
  );
}

/** The file once more, from its run sheet. */
function MakeAgain({ run, of }: { run: Run; of: string }) {
  const again = useMakeAgain();
  return (
    <>
      <button
        type="button"
        className="quiet-button"
        aria-label={`Make again${of}`}
        disabled={again.isPending}
        onClick={() => again.mutate(run.id)}
      >
        Make again
      </button>
      {again.error && (
        <span className="notice" role="alert">
          {again.error.message}
        </span>
      )}
    </>
  );
}
