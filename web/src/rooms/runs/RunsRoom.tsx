import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import type { Run } from "../../api/client";
import { useEarlierRuns, useRuns } from "../../api/queries";
import { RunLine } from "../../shared/ui/RunLine";

/** What is being made, and what was made. */
export function RunsRoom() {
  const runs = useRuns();
  const more = useEarlierRuns();
  const earlier = useQuery<Run[]>({ queryKey: ["earlier runs"], enabled: false, initialData: [] }).data;
  const newest = runs.data ?? [];
  const listed = [...newest, ...earlier.filter((run) => !newest.some((each) => each.id === run.id))];
  const last = listed.at(-1);
  // What was opened or read stands in its room; here only what is still under way, or failed.
  const shown = listed.filter(
    (run) => !["intake", "version", "reading"].includes(run.kind) || run.state !== "done",
  );
  return (
    <main className="room">
      <header>
        <div>
          <h1>Runs</h1>
          <p className="soft">
            Every file that leaves the house, with the run sheet that says how it was made.
          </p>
        </div>
      </header>
      {runs.error && <p className="notice">{runs.error.message}</p>}
      {runs.data && shown.length === 0 && (
        <p>Nothing was made yet. Open artwork on the Bench, choose a condition, and separate it there.</p>
      )}
      <div className="run-list">
        {shown.map((run) => (
          <RunLine key={run.id} run={run} wide />
        ))}
      </div>
      {last && listed.length >= 100 && (
        <Button disabled={more.isPending || more.data?.length === 0} onClick={() => more.mutate(last.id)}>
          {more.data?.length === 0 ? "These are all" : "Earlier runs"}
        </Button>
      )}
    </main>
  );
}
