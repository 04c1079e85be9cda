import LinearProgress from "@mui/material/LinearProgress";
import type { Reading } from "../../api/policyQueries";
import { useCancelRun } from "../../api/queries";
import { percent } from "../../shared/figures";

/** How far a job is that reads a large document, and a way to stop it. */
export function ReadingLine({ reading }: { reading: Reading }) {
  const cancel = useCancelRun();
  return (
    <div className="reading">
      <span>Reading every color of a large document, {percent(100 * reading.progress)}</span>
      <LinearProgress
        variant="determinate"
        value={100 * reading.progress}
        aria-label="How much of the document has been read"
      />
      {reading.run_id !== null && (
        <button
          type="button"
          className="quiet-button"
          onClick={() => reading.run_id !== null && cancel.mutate(reading.run_id)}
        >
          Cancel
        </button>
      )}
    </div>
  );
}
