import { useNavigate, useParams } from "react-router";
import { useJudgement, useRemoveCondition, useSetStatus } from "../../api/conditionQueries";
import { useConditions } from "../../api/queries";
import { fixed, lab, percent } from "../../app/figures";
import { Choice } from "../bench/panels/Choice";
import { LinePlot } from "./LinePlot";

const INKS: Record<string, string> = { C: "#0093c9", M: "#c4147a", Y: "#b99b00", K: "var(--ink)" };

interface Report {
  gain_50?: Record<string, number>;
  ramps?: Record<string, [number, number][]>;
  smoothing?: number;
  tried?: [number, number][];
  wrong_patches?: { inks_percent: number[]; delta_e: number }[];
  total_by_lightness?: [number, number][];
  notes?: string[];
  most_ink_percent?: number;
}

/** One condition: what its data said, and how its profile does. */
export function ConditionPage() {
  const { slug = "" } = useParams();
  const navigate = useNavigate();
  const conditions = useConditions();
  const condition = conditions.data?.find((each) => each.slug === slug);
  const judgement = useJudgement(slug);
  const status = useSetStatus();
  const remove = useRemoveCondition();
  if (!conditions.data) return <p className="room soft">Opening the condition</p>;
  if (!condition) return <p className="room notice">There is no condition '{slug}'.</p>;
  const report = condition.report as Report;
  const found = judgement.data;
  return (
    <main className="room">
      <header>
        <div>
          <h1>{condition.name}</h1>
          <p className="soft">
            {condition.process}. {condition.notes}
          </p>
        </div>
        <div className="answers">
          <a href={`/api/conditions/${slug}/profile`}>Download ICC</a>
          <button type="button" className="quiet-button" onClick={() => navigate(`/gamut?with=${slug},sRGB`)}>
            Look into its gamut
          </button>
          {condition.made_from && (
            <button
              type="button"
              className="quiet-button"
              onClick={() =>
                confirm(`Remove the condition '${condition.name}'? Files already written stay.`) &&
                remove.mutate(slug, { onSuccess: () => navigate("/conditions") })
              }
            >
              Remove
            </button>
          )}
        </div>
      </header>
      {(judgement.error ?? status.error ?? remove.error) && (
        <p className="notice">{(judgement.error ?? status.error ?? remove.error)?.message}</p>
      )}
      <Choice
        label="Status"
        value={condition.status as "draft" | "trusted" | "out of date"}
        options={[
          ["draft", "Draft"],
          ["trusted", "Trusted"],
          ["out of date", "Out of date"],
        ]}
        onChange={(value) => status.mutate({ slug, status: value })}
      />
      <div className="totals condition-totals">
        <div>
          <b>{found ? fixed(found.round_trip_mean, 2) : "…"}</b>round trip ΔE00, mean
        </div>
        <div>
          <b>{found ? fixed(found.round_trip_p99, 2) : "…"}</b>99th
        </div>
        <div>
          <b>{found ? fixed(found.corkscrew, 2) : "…"}</b>C* off neutral at most
        </div>
        <div>
          <b>{found ? percent(found.most_ink_percent) : "…"}</b>most ink in its tables
        </div>
        <div>
          <b>{found ? lab(found.black_lab) : "…"}</b>black, L*a*b*
        </div>
        <div>
          <b>{found ? fixed(found.gamut_volume / 1000, 0) : "…"}</b>gamut, 1000 ΔE³
        </div>
        <div>
          <b>{condition.patches ? fixed(condition.fit_mean, 2) : "—"}</b>fit ΔE00 of patches kept back
        </div>
      </div>
      {!found && !judgement.error && <p className="soft">Judging the profile</p>}
      {found && (
        <div className="condition-plots">
          <LinePlot
            title="Gray axis: a* and b* as printed"
            across="L* 100 to black"
            up="±3"
            x={[100, Math.min(...found.gray_axis.map((row) => row[0] ?? 0))]}
            y={[-3, 3]}
            lines={[
              { name: "a*", color: "var(--ink)", points: found.gray_axis.map((r) => [r[0] ?? 0, r[2] ?? 0]) },
              {
                name: "b*",
                color: "var(--soft)",
                dash: "4 3",
                points: found.gray_axis.map((r) => [r[0] ?? 0, r[3] ?? 0]),
              },
            ]}
          />
          <LinePlot
            title="Inks along the gray axis"
            across="light to dark"
            up="ink %"
            x={[0, found.gray_inks.length - 1]}
            y={[0, 1]}
            lines={found.inks.map((ink, k) => ({
              name: ink,
              color: INKS[ink] ?? "var(--soft)",
              points: found.gray_inks.map((row, index) => [index, row[k] ?? 0] as [number, number]),
            }))}
          />
          <LinePlot
            title="Dot gain that it implies"
            across="dot %"
            up="tone value %"
            x={[0, 1]}
            y={[0, 1]}
            lines={Object.entries(found.gain).map(([ink, points]) => ({
              name: ink,
              color: INKS[ink] ?? "var(--soft)",
              points: points as [number, number][],
            }))}
          />
          {report.total_by_lightness && (
            <LinePlot
              title={`Total ink against darkness: ${percent(condition.total_ink_percent)} taken`}
              across="total ink %"
              up="L* of neutral black"
              x={[100, 400]}
              y={[10, 50]}
              mark={condition.total_ink_percent}
              lines={[{ name: "black", color: "var(--ink)", points: report.total_by_lightness }]}
            />
          )}
        </div>
      )}
      {(report.wrong_patches?.length ?? 0) > 0 && (
        <section>
          <h3>Wrong patches, set aside: measure them again</h3>
          {report.wrong_patches?.map((patch) => (
            <p key={patch.inks_percent.join()}>
              {condition.inks.map((ink, k) => `${ink} ${fixed(patch.inks_percent[k] ?? 0, 0)}`).join("  ")}:
              ΔE00 {fixed(patch.delta_e)} from what the others say
            </p>
          ))}
        </section>
      )}
      {(report.notes?.length ?? 0) > 0 && (
        <section>
          <h3>On the way</h3>
          {report.notes?.map((note) => (
            <p key={note}>{note}</p>
          ))}
          {report.tried && (
            <p className="soft">
              Smoothing as left-out patches chose it ({report.smoothing}):{" "}
              {report.tried.map(([value, error]) => `${value} gives ${fixed(error, 3)}`).join(", ")} ΔE00.
            </p>
          )}
        </section>
      )}
    </main>
  );
}
