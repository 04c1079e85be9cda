import Button from "@mui/material/Button";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { Link } from "react-router";
import { useTakeInCondition } from "../../api/conditionQueries";
import { useConditions, useRuns } from "../../api/queries";
import { lab, percent } from "../../app/figures";
import { RunLine } from "../runs/RunLine";

/** The house's printing conditions with what is known of each. */
export function ConditionsRoom() {
  const conditions = useConditions();
  const takeIn = useTakeInCondition();
  const queries = useQueryClient();
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
          <h1>Conditions</h1>
          <p className="soft">
            Process, substrate and inks, each from a measured chart. Lab is D50, 2°; the fit is judged on
            patches it has not seen.
          </p>
        </div>
        <div className="answers">
          <Button onClick={() => input.current?.click()}>Take in a profile or measurements</Button>
          <Link to="/gamut">Gamuts</Link>
        </div>
        <input
          ref={input}
          type="file"
          hidden
          accept=".icc,.icm,.txt,.cgats,.it8,.cxf,.xml"
          aria-label="Profile or measurements"
          onChange={(event) => {
            const file = event.target.files?.[0];
            event.target.value = "";
            if (file) takeIn.mutate(file);
          }}
        />
      </header>
      {takeIn.error && (
        <p className="notice" role="alert">
          {takeIn.error.message}
        </p>
      )}
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
            <th className="number">Darkest, relative Lab</th>
            <th className="number">Patches</th>
            <th className="number">Fit ΔE00, mean / p95</th>
            <th>Profile</th>
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
              <td className="unbroken">{condition.inks.join(" ")}</td>
              <td className="number">{percent(condition.total_ink_percent)}</td>
              <td className="number">{lab(condition.substrate_lab)}</td>
              <td className="number">{lab(condition.darkest_lab)}</td>
              <td className="number">{condition.patches}</td>
              <td className="number">
                {condition.fit_mean.toFixed(2)} / {condition.fit_p95.toFixed(2)}
              </td>
              <td className="unbroken">
                <a href={`/api/conditions/${condition.slug}/profile`}>Download ICC</a>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </main>
  );
}
