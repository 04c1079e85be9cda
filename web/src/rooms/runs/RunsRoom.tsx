import { useRuns } from "../../api/queries";
import { RunLine } from "./RunLine";

/** What is being made, and what was made. */
export function RunsRoom() {
  const runs = useRuns();
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
      {runs.data?.length === 0 && (
        <p>Nothing was made yet. Open artwork on the Bench, choose a condition, and separate it there.</p>
      )}
      <div className="run-list">
        {runs.data?.map((run) => (
          <RunLine key={run.id} run={run} wide />
        ))}
      </div>
    </main>
  );
}
