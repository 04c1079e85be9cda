import "./conditions.css";
import Button from "@mui/material/Button";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { useCharacterizations } from "../../api/characterizationQueries";
import { useConditions, useRuns } from "../../api/queries";
import { fixed, lab, moment, percent } from "../../shared/figures";
import { drivenByRgb, inkNames } from "../../shared/inks";
import { MEASUREMENT_FILES } from "../../shared/measurementFiles";
import { RunLine } from "../../shared/ui/RunLine";
import { UploadList } from "../../shared/uploads/Uploads";
import { addFiles } from "../../shared/uploads/uploads";
import { NewCharacterization } from "../characterize/NewCharacterization";
import { STEP_WORDS } from "../characterize/words";
import { MediaTable } from "./MediaTable";

/** The house's printing conditions with what is known of each. */
export function ConditionsRoom() {
  const conditions = useConditions();
  const queries = useQueryClient();
  const paths = useCharacterizations();
  const [beginning, setBeginning] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const making = useRuns().data?.filter((run) => run.kind === "profile" && run.state !== "done") ?? [];
  const underWay = making.filter((run) => run.state === "queued" || run.state === "running").length;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a run that ended has made a condition
  useEffect(() => {
    void queries.invalidateQueries({ queryKey: ["conditions"] });
  }, [underWay, queries]);
  return (
    <main className="room">
      <header>
        <div>
          <h1 tabIndex={-1}>Conditions</h1>
          <p className="soft">
            Process, substrate and inks, each from a measured chart. Lab is D50, 2°; the fit is judged on
            patches it has not seen. Drop an ICC profile or a measurement file here to import it.
          </p>
        </div>
        <div className="answers">
          <Button variant="contained" onClick={() => setBeginning(true)}>
            New characterization
          </Button>
          <Button onClick={() => input.current?.click()}>Import a profile or measurements</Button>
          <Link to="/conditions/from-numbers">From a supplier's numbers</Link>
          <Link to="/gamut">Gamuts</Link>
        </div>
        <input
          ref={input}
          type="file"
          multiple
          hidden
          accept={`.icc,.icm,${MEASUREMENT_FILES}`}
          aria-label="Profile or measurements"
          onChange={(event) => {
            // The list is emptied with the input: its files are taken out first.
            const given = [...(event.target.files ?? [])];
            event.target.value = "";
            addFiles(given);
          }}
        />
      </header>
      {beginning && <NewCharacterization onLeave={() => setBeginning(false)} />}
      <UploadList />
      {making.slice(0, 3).map((run) => (
        <RunLine key={run.id} run={run} />
      ))}
      {conditions.error && <p className="notice">{conditions.error.message}</p>}
      <table className="table">
        <thead>
          <tr>
            <th>Condition</th>
            <th>Inks</th>
            <th className="number">Total ink</th>
            <th className="number">Substrate, absolute Lab</th>
            <th className="number">Darkest L*</th>
            <th className="number">Fit ΔE00, mean / p95</th>
            <th>Last strip, ΔE00</th>
            <th className="number">Medium</th>
          </tr>
        </thead>
        <tbody>
          {conditions.data?.map((condition) => (
            <tr key={condition.slug}>
              <td>
                <Link className="strong" to={`/conditions/${condition.slug}`}>
                  {condition.name}
                </Link>{" "}
                {condition.status !== "trusted" && <span className="status">{condition.status}</span>}
                <br />
                <span className="soft">
                  {condition.process}
                  <br />
                  {condition.notes}
                </span>
              </td>
              <td className="unbroken">
                {drivenByRgb(condition.inks) ? "by RGB" : inkNames(condition.device_inks)}
              </td>
              <td className="number">
                {drivenByRgb(condition.inks) ? "–" : percent(condition.total_ink_percent)}
              </td>
              <td className="number">{lab(condition.substrate_lab)}</td>
              <td className="number">{fixed(condition.darkest_lab[0] ?? 0)}</td>
              <td className="number unbroken">
                {condition.patches
                  ? `${condition.fit_mean.toFixed(2)} / ${condition.fit_p95.toFixed(2)}`
                  : condition.from_numbers
                    ? "from numbers"
                    : "as a profile"}
              </td>
              <td className="unbroken">
                <Link to={`/conditions/${condition.slug}/drift`}>
                  <span className="visually-hidden">Strips of {condition.name}: </span>
                  {condition.last_strip
                    ? `${fixed(condition.last_strip.mean)}, ${condition.last_strip.within ? "within" : "out"}`
                    : "none yet"}
                </Link>
              </td>
              <td className="number unbroken">
                {condition.medium
                  ? `${fixed(condition.medium.cost_per_m2, 2)} ${condition.medium.currency}/m²`
                  : "–"}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {/* What stands below the conditions waits for them: it would be pushed down. */}
      {!conditions.isPending && paths.data && paths.data.length > 0 && (
        <section>
          <h2>Characterizations</h2>
          <table className="table paths">
            <tbody>
              {paths.data.map((path) => {
                const done = path.steps.filter((step) => step.state === "done").length;
                const next = path.steps.find((step) => step.state !== "done");
                return (
                  <tr key={path.id}>
                    <td>
                      <Link className="strong" to={`/characterize/${path.id}`}>
                        {path.name}
                      </Link>
                    </td>
                    <td>
                      {done} of {path.steps.length} steps done
                    </td>
                    <td>{next ? `next: ${STEP_WORDS[next.step]?.name.toLowerCase()}` : "judged"}</td>
                    <td className="soft">{moment(path.changed_at)}</td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </section>
      )}
      {!conditions.isPending && <MediaTable />}
    </main>
  );
}
