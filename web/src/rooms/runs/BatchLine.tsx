import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import { useState } from "react";
import { type Batch, type ItemState, useBatchActions, useBatchItems } from "../../api/batchQueries";
import { moment, percent } from "../../shared/figures";
import { Choice } from "../../shared/ui/Choice";

const WORDS: Record<string, string> = {
  done: "done",
  failed: "failed",
  refused: "refused",
  cancelled: "cancelled",
  running: "under way",
  queued: "next",
  waiting: "waiting",
  removed: "removed",
};
const PRIORITIES = [
  [10, "First"],
  [0, "As it comes"],
  [-10, "Last"],
] as const;
const PAGE = 100;

/** One batch: how far it is, what failed and why, and what can be done about it. */
export function BatchLine({ batch }: { batch: Batch }) {
  const { counts } = batch;
  const of = (state: string) => counts[state] ?? 0;
  const failed = of("failed") + of("refused");
  const waits = of("waiting") > 0;
  const goesOn = waits || of("queued") + of("running") > 0;
  const [open, setOpen] = useState(false);
  const [state, setState] = useState<ItemState>("");
  const [shown, setShown] = useState(PAGE);
  const items = useBatchItems(batch, state, shown, open);
  const { act, prioritize, remove } = useBatchActions();
  const error = act.error ?? prioritize.error ?? remove.error;
  const settled = batch.total - of("waiting") - of("queued") - of("running");
  const press = (what: "pause" | "resume" | "cancel" | "retry") => act.mutate({ id: batch.id, what });
  return (
    <section className="batch" aria-label={`Batch ${batch.name}`}>
      <div className="run-head">
        <button
          type="button"
          className="quiet-button strong"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
        >
          {batch.name}
        </button>
        <span role="status">
          {settled} of {batch.total}
          {batch.paused && goesOn && ", paused"}
          {failed > 0 && <span className="strong">, {failed} not made</span>}
        </span>
      </div>
      <div className="soft">
        Batch, asked {moment(batch.asked_at)}
        {batch.asked_by && ` by ${batch.asked_by}`}:{" "}
        {Object.keys(WORDS)
          .filter((each) => of(each))
          .map((each) => `${of(each)} ${WORDS[each]}`)
          .join(", ")}
      </div>
      {goesOn && (
        <LinearProgress
          variant="determinate"
          value={(settled / Math.max(batch.total, 1)) * 100}
          aria-label={`Progress of ${batch.name}`}
          aria-valuetext={percent((settled / Math.max(batch.total, 1)) * 100)}
        />
      )}
      <div className="run-links">
        {waits && (
          <button
            type="button"
            className="quiet-button"
            onClick={() => press(batch.paused ? "resume" : "pause")}
          >
            {batch.paused ? "Resume" : "Pause"}
          </button>
        )}
        {failed + of("cancelled") > 0 && (
          <button type="button" className="quiet-button" onClick={() => press("retry")}>
            Try {failed + of("cancelled")} again
          </button>
        )}
        {goesOn && (
          <button
            type="button"
            className="quiet-button"
            onClick={() =>
              confirm(`Cancel what is left of '${batch.name}'? Finished files stay.`) && press("cancel")
            }
          >
            Cancel the rest
          </button>
        )}
        {of("done") > 0 && <a href={`/api/batches/${batch.id}/files`}>Download all as ZIP</a>}
        <a href={`/api/batches/${batch.id}/report`} target="_blank" rel="noreferrer">
          Report
        </a>
        {!goesOn && (
          <button type="button" className="quiet-button soft" onClick={() => remove.mutate(batch.id)}>
            Remove from the list
          </button>
        )}
      </div>
      {error && (
        <p className="notice" role="alert">
          {error.message}
        </p>
      )}
      {open && (
        <>
          <div className="batch-tools">
            <Choice
              bare
              label="Files that are listed"
              value={state}
              options={[
                ["", "All"],
                ...(["failed", "refused", "running", "waiting", "done"] as const)
                  .filter((each) => of(each))
                  .map((each) => [each, `${WORDS[each]} ${of(each)}`] as const),
              ]}
              onChange={(next) => {
                setState(next);
                setShown(PAGE);
              }}
            />
            {waits && (
              <Choice
                bare
                label="Priority of the batch"
                value={batch.priority}
                options={PRIORITIES}
                onChange={(priority) => prioritize.mutate({ id: batch.id, priority })}
              />
            )}
          </div>
          <table className="table" aria-label={`Files of ${batch.name}`}>
            <thead>
              <tr>
                <th>File</th>
                <th>Of</th>
                <th>For</th>
                <th>State</th>
                <th>Said</th>
              </tr>
            </thead>
            <tbody>
              {items.data?.items.map((item) => (
                <tr key={item.number}>
                  <td>
                    {item.state === "done" && item.run_id !== null ? (
                      <a href={`/api/runs/${item.run_id}/file`}>{item.file_name}</a>
                    ) : (
                      item.file_name
                    )}
                  </td>
                  <td>{item.of_name}</td>
                  <td>{item.for_name}</td>
                  <td className={item.state === "failed" || item.state === "refused" ? "strong" : ""}>
                    {WORDS[item.state]}
                    {item.state === "running" && ` ${percent(item.progress * 100)}`}
                  </td>
                  <td>{item.said}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {items.data && items.data.total > items.data.items.length && (
            <Button onClick={() => setShown(Math.min(shown + 4 * PAGE, 500))} disabled={shown >= 500}>
              {shown >= 500
                ? `500 of ${items.data.total} are listed; the report has all`
                : `More of ${items.data.total}`}
            </Button>
          )}
        </>
      )}
    </section>
  );
}
