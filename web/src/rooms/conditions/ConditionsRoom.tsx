import { useConditions } from "../../api/queries";
import { lab, percent } from "../../app/figures";

/** The house's printing conditions with what is known of each. */
export function ConditionsRoom() {
  const conditions = useConditions();
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
      </header>
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
                <span className="strong">{condition.name}</span>
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
