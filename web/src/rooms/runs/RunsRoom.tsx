import "./runs.css";
import "./RunsRoom.css";
import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { useBatches, useWatched } from "../../api/batchQueries";
import type { Run } from "../../api/client";
import { type RunSearch, useEarlierRuns, useFoundRuns, useRuns } from "../../api/queries";
import { RunLine } from "../../shared/ui/RunLine";
import { BatchLine } from "./BatchLine";
import { WatchedFolders } from "./WatchedFolders";

const STATES: [NonNullable<RunSearch["state"]>, string][] = [
  ["queued", "Waiting"],
  ["running", "Under way"],
  ["done", "Done"],
  ["failed", "Failed"],
  ["cancelled", "Cancelled"],
];
const KINDS: [string, string][] = [
  ["separation", "Separations"],
  ["document", "Documents"],
  ["profile", "Profiles"],
];

/** Batches, what is being made, and what was made. */
export function RunsRoom() {
  const batches = useBatches();
  const watched = useWatched();
  const [search, setSearch] = useState<RunSearch>({ search: "" });
  const narrowed = Boolean(search.search || search.state || search.kind);
  return (
    <main className="room">
      <header>
        <div>
          <h1 tabIndex={-1}>Runs</h1>
          <p className="soft">
            Every file that leaves the house, with the run sheet that says how it was made.
          </p>
        </div>
      </header>
      {batches.error && <p className="notice">{batches.error.message}</p>}
      {/* One below the other: nothing shows before what stands above it is known. */}
      {batches.data && batches.data.length > 0 && (
        <section>
          <h2>Batches</h2>
          {batches.data.map((batch) => (
            <BatchLine key={batch.id} batch={batch} />
          ))}
        </section>
      )}
      {!batches.isPending && <WatchedFolders />}
      {!batches.isPending && !watched.isPending && (
        <>
          <search className="run-tools">
            <label>
              <span>Search runs</span>
              <input
                className="field"
                type="search"
                placeholder="File, artwork, condition, person"
                value={search.search}
                onChange={(event) => setSearch({ ...search, search: event.target.value })}
              />
            </label>
            <label>
              <span>State</span>
              <select
                className="field"
                value={search.state ?? ""}
                onChange={(event) =>
                  setSearch({ ...search, state: (event.target.value || undefined) as RunSearch["state"] })
                }
              >
                <option value="">Any</option>
                {STATES.map(([value, text]) => (
                  <option key={value} value={value}>
                    {text}
                  </option>
                ))}
              </select>
            </label>
            <label>
              <span>Kind</span>
              <select
                className="field"
                value={search.kind ?? ""}
                onChange={(event) => setSearch({ ...search, kind: event.target.value })}
              >
                <option value="">Any</option>
                {KINDS.map(([value, text]) => (
                  <option key={value} value={value}>
                    {text}
                  </option>
                ))}
              </select>
            </label>
            {narrowed && (
              <button type="button" className="quiet-button" onClick={() => setSearch({ search: "" })}>
                Reset filters
              </button>
            )}
          </search>
          {narrowed ? <Found search={search} /> : <Latest />}
        </>
      )}
    </main>
  );
}

function Latest() {
  const runs = useRuns();
  const more = useEarlierRuns();
  const earlier = useQuery<Run[]>({ queryKey: ["earlier runs"], enabled: false, initialData: [] }).data;
  const newest = runs.data ?? [];
  const listed = [...newest, ...earlier.filter((run) => !newest.some((each) => each.id === run.id))];
  const last = listed.at(-1);
  // What was opened or read stands in its room; here only what is still under way, or failed.
  const shown = listed.filter(
    (run) => !["intake", "version", "reading", "comparison"].includes(run.kind) || run.state !== "done",
  );
  return (
    <>
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
    </>
  );
}

function Found({ search }: { search: RunSearch }) {
  const found = useFoundRuns(useDeferredValue(search));
  const runs = found.data?.pages.flat() ?? [];
  return (
    <>
      {found.error && <p className="notice">{found.error.message}</p>}
      <p className="soft" role="status">
        {found.isPending ? "Searching" : `${runs.length}${found.hasNextPage ? " or more" : ""} found`}
      </p>
      <div className="run-list">
        {runs.map((run) => (
          <RunLine key={run.id} run={run} wide />
        ))}
      </div>
      {found.hasNextPage && (
        <Button disabled={found.isFetchingNextPage} onClick={() => found.fetchNextPage()}>
          Earlier runs
        </Button>
      )}
    </>
  );
}
