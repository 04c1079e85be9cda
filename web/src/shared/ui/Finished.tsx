import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import type { Run } from "../../api/client";
import { useRuns } from "../../api/queries";
import { counted } from "../figures";

const TOLD_MS = 12_000;
/** What is told when it ends; what opens or reads a file shows itself where it was asked for. */
const TOLD = new Set(["separation", "document", "profile", "measure"]);
/** Whether a line about this run is on the screen already: then a note of it would only cover something. */
function inSight(run: Run): boolean {
  const line = document.querySelector(`[data-run="${run.id}"]`);
  if (!line?.checkVisibility()) return false;
  const { top, bottom } = line.getBoundingClientRect();
  return top >= 0 && bottom <= window.innerHeight;
}
const moving = (run: Run) => run.state === "queued" || run.state === "running";

/** Says, in whatever room one is, that something one asked for is done or failed, with the way to what came of it. */
export function Finished({ user }: { user: string }) {
  const runs = useRuns();
  /** Runs that had ended already: a quick one ends between two looks, without having been seen under way. */
  const known = useRef<{ ids: Set<number>; until: string }>(undefined);
  const [told, setTold] = useState<Run[]>([]);
  /** Of batches and watched folders: they are told of together, when none of them is under way any more. */
  const [together, setTogether] = useState({ done: 0, failed: 0 });
  const soFar = useRef({ done: 0, failed: 0 });
  const [heard, setHeard] = useState("");
  const [held, setHeld] = useState(false);

  useEffect(() => {
    if (!runs.data) return;
    const over = runs.data.filter((run) => !moving(run));
    const before = known.current;
    const endedAt = (run: Run) => run.ended_at ?? "";
    const ended = before ? over.filter((run) => !before.ids.has(run.id) && endedAt(run) > before.until) : [];
    known.current = {
      ids: new Set([...(before?.ids ?? []), ...over.map((run) => run.id)]),
      until: before?.until ?? over.map(endedAt).sort().at(-1) ?? "",
    };
    const mine = ended.filter(
      (run) => run.asked_by === user && TOLD.has(run.kind) && run.state !== "cancelled",
    );
    const alone = mine.filter((run) => !run.handed_out);
    const elsewhere = alone.filter((run) => !inSight(run));
    if (elsewhere.length) setTold((now) => [...elsewhere, ...now].slice(0, 3));
    // Whoever does not see the line hears that it has changed.
    const seen = alone
      .filter(inSight)
      .map((run) => `${run.state === "done" ? "Done" : "Failed"}: ${run.file_name}`);
    if (seen.length) setHeard(seen.join(". "));
    for (const run of mine) if (run.handed_out) soFar.current[run.state === "done" ? "done" : "failed"] += 1;
    const { done, failed } = soFar.current;
    if (done + failed && !runs.data?.some((run) => run.handed_out && moving(run))) {
      setTogether({ done, failed });
      soFar.current = { done: 0, failed: 0 };
    }
  }, [runs.data, user]);
  const any = told.length > 0 || together.done + together.failed > 0;
  const close = () => {
    setTold([]);
    setTogether({ done: 0, failed: 0 });
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new one has its time from its own beginning
  useEffect(() => {
    if (!any || held) return;
    const later = setTimeout(() => {
      setTold([]);
      setTogether({ done: 0, failed: 0 });
    }, TOLD_MS);
    return () => clearTimeout(later);
  }, [any, told, held]);

  return (
    <section
      className="finished"
      aria-label="Finished"
      onPointerEnter={() => setHeld(true)}
      onPointerLeave={() => setHeld(false)}
      onFocus={() => setHeld(true)}
      onBlur={() => setHeld(false)}
    >
      <div role="status">
        {heard && <span className="visually-hidden">{heard}</span>}
        {told.map((run) => (
          <p key={run.id}>
            <b>{run.state === "done" ? "Done" : "Failed"}</b> {run.file_name}
            {run.state === "failed" && <span className="why">{run.message}</span>}
          </p>
        ))}
        {together.done + together.failed > 0 && (
          <p>
            <b>{together.failed ? `${together.failed} failed` : "All done"}</b>{" "}
            {`${counted(together.done, "file")} of batches and watched folders written`}
          </p>
        )}
      </div>
      {any && (
        <p className="ways">
          {told.length === 1 && told[0] && <Way run={told[0]} />}
          <Link to="/runs">Runs</Link>
          <button type="button" className="quiet-button" onClick={close}>
            Close
          </button>
        </p>
      )}
    </section>
  );
}

function Way({ run }: { run: Run }) {
  if (run.state !== "done") return null;
  if (run.kind === "profile" && run.condition_slug)
    return <Link to={`/conditions/${run.condition_slug}`}>Open {run.condition_name}</Link>;
  if (run.kind === "separation" || run.kind === "document")
    return (
      <>
        {run.has_file && <a href={`/api/runs/${run.id}/file`}>Download</a>}
        <a href={`/runs/${run.id}/sheet`} target="_blank" rel="noreferrer">
          {run.kind === "document" ? "Report" : "Run sheet"}
        </a>
      </>
    );
  return null;
}
