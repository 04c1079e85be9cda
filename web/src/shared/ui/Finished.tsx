import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import type { Run } from "../../api/client";
import { useRuns } from "../../api/queries";
import "./finished.css";

const TOLD_MS = 12_000;
/** What is told when it ends; what opens or reads a file shows itself where it was asked for. */
const TOLD = new Set(["separation", "document", "profile", "measure"]);
const moving = (run: Run) => run.state === "queued" || run.state === "running";

/** Says, in whatever room one is, that something one asked for is done or failed, with the way to what came of it. */
export function Finished({ user }: { user: string }) {
  const runs = useRuns();
  const underWay = useRef(new Set<number>());
  const [told, setTold] = useState<Run[]>([]);
  const [held, setHeld] = useState(false);

  useEffect(() => {
    const ended = (runs.data ?? []).filter((run) => !moving(run) && underWay.current.has(run.id));
    underWay.current = new Set(runs.data?.filter(moving).map((run) => run.id));
    const mine = ended.filter(
      (run) => run.asked_by === user && TOLD.has(run.kind) && run.state !== "cancelled",
    );
    if (mine.length) setTold((now) => [...mine, ...now].slice(0, 3));
  }, [runs.data, user]);
  useEffect(() => {
    if (!told.length || held) return;
    const later = setTimeout(() => setTold([]), TOLD_MS);
    return () => clearTimeout(later);
  }, [told, held]);

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
        {told.map((run) => (
          <p key={run.id}>
            <b>{run.state === "done" ? "Done" : "Failed"}</b> {run.file_name}
            {run.state === "failed" && <span className="why">{run.message}</span>}
          </p>
        ))}
      </div>
      {told.length > 0 && (
        <p className="ways">
          {told.length === 1 && told[0] && <Way run={told[0]} />}
          <Link to="/runs">Runs</Link>
          <button type="button" className="quiet-button" onClick={() => setTold([])}>
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
        <a href={`/api/runs/${run.id}/file`}>Download</a>
        <a href={`/runs/${run.id}/sheet`} target="_blank" rel="noreferrer">
          {run.kind === "document" ? "Report" : "Run sheet"}
        </a>
      </>
    );
  return null;
}
