import "./ConditionPage.css";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Condition } from "../../api/client";
import { useCondition, useJudgement, useRemoveCondition, useSetStatus } from "../../api/conditionQueries";
import { useOutputs } from "../../api/policyQueries";
import { useArtworks, useSession } from "../../api/queries";
import { fixed, lab, percent } from "../../shared/figures";
import { drivenByRgb, inkColor, inkName } from "../../shared/inks";
import { LinePlot } from "../../shared/plots/LinePlot";
import { RoundTripMap } from "../../shared/plots/RoundTripMap";
import { Choice } from "../../shared/ui/Choice";
import { History } from "../../shared/ui/History";
import { BeforeAfter } from "./BeforeAfter";
import { ConditionHead } from "./ConditionHead";
import { CorrectNumbers } from "./CorrectNumbers";
import { CostFields } from "./CostFields";
import { DecidedFields } from "./DecidedFields";
import { useOneCondition } from "./useOneCondition";

/** One condition: what its data said, and how its profile does. */
export function ConditionPage() {
  const { condition, instead } = useOneCondition();
  return condition ? <Judged key={condition.slug} condition={condition} /> : instead;
}

function Judged({ condition }: { condition: Condition }) {
  const slug = condition.slug;
  const navigate = useNavigate();
  const artworks = useArtworks().data ?? [];
  const judgement = useJudgement(slug);
  const status = useSetStatus();
  const remove = useRemoveCondition();
  const uses = useOutputs().data?.filter((each) => each.condition === slug) ?? [];
  const [pictured, setPictured] = useState<number>();
  const report = useCondition(slug).data?.report;
  const mayChange = useSession().data?.may.includes("conditions") ?? false;
  const tried = report?.tried ?? [];
  const dark = report?.darkest ?? [];
  const found = judgement.data;
  const judged = found !== undefined || judgement.isError;
  const shown = pictured ?? artworks[0]?.id;
  const rgb = drivenByRgb(condition.inks);
  const offNeutral = Math.max(3, ...(found?.gray_axis ?? []).flatMap((row) => row.slice(2).map(Math.abs)));
  return (
    <main className="room">
      <ConditionHead condition={condition}>
        <a href={`/api/conditions/${slug}/profile`}>Download ICC</a>
        <a
          href={`/api/conditions/${slug}/report.html${shown ? `?artwork=${shown}` : ""}`}
          target="_blank"
          rel="noreferrer"
        >
          Report to print
        </a>
        <button type="button" className="quiet-button" onClick={() => navigate(`/gamut?with=${slug},sRGB`)}>
          Look into its gamut
        </button>
        {condition.made_from && (
          <button
            type="button"
            className="quiet-button"
            onClick={() => remove.mutate(slug, { onSuccess: () => navigate("/conditions") })}
          >
            Remove
          </button>
        )}
      </ConditionHead>
      {(judgement.error ?? status.error ?? remove.error) && (
        <p className="notice">{(judgement.error ?? status.error ?? remove.error)?.message}</p>
      )}
      <div className="decided">
        <Choice
          label="Status"
          value={condition.status as "draft" | "trusted" | "out of date"}
          options={[
            ["draft", "Draft"],
            ["trusted", "Trusted"],
            ["out of date", "Out of date"],
          ]}
          onChange={(value) => status.mutate({ slug, status: value, version: condition.version })}
        />
        <DecidedFields condition={condition} />
        <CostFields condition={condition} />
        {condition.from_numbers && <CorrectNumbers condition={condition} />}
        {uses.length > 0 && (
          <p className="soft">
            Condition of {uses.length === 1 ? "the output" : "the outputs"}{" "}
            <Link to="/policies">{uses.map((each) => each.name).join(", ")}</Link>
          </p>
        )}
        <History kind="condition" recordKey={slug} mayChange={mayChange} />
      </div>
      <div className="totals condition-totals">
        <div>
          <b>{found ? fixed(found.round_trip_mean, 2) : "…"}</b>round trip ΔE00, mean
        </div>
        <div>
          <b>{found ? fixed(found.round_trip_p99, 2) : "…"}</b>99 % below
        </div>
        <div>
          <b>{found ? fixed(found.max_neutral_chroma, 2) : "…"}</b>C* off neutral at most
        </div>
        {!rgb && (
          <div>
            <b>{found ? percent(found.most_ink_percent) : "…"}</b>most ink in its tables
          </div>
        )}
        <div>
          <b>{found ? lab(found.black_lab) : "…"}</b>black, L*a*b*
        </div>
        <div>
          <b>{found ? fixed(found.gamut_volume / 1000, 0) : "…"}</b>gamut, 1000 ΔE³
        </div>
        <div>
          <b>{condition.patches ? fixed(condition.fit_mean, 2) : "—"}</b>fit ΔE00, patches unseen
        </div>
      </div>
      {!found && !judgement.error && <p className="soft">Judging the profile</p>}
      {found && (
        <div className="condition-plots">
          <LinePlot
            title="Gray axis: a* and b* as printed"
            x={{
              name: "L*, paper to black",
              short: "L*",
              range: [100, Math.min(...found.gray_axis.map((row) => row[0] ?? 0))],
            }}
            y={{ name: "a*, b*", range: [-offNeutral, offNeutral] }}
            digits={2}
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
            title="Gray axis in a*b*"
            note="from paper to black"
            x={{ name: "a*", range: [-offNeutral, offNeutral] }}
            y={{ name: "b*", range: [-offNeutral, offNeutral] }}
            square
            height={238}
            dots
            lines={[
              {
                name: "",
                color: "var(--ink)",
                points: found.gray_axis.map((r) => [r[2] ?? 0, r[3] ?? 0] as [number, number]),
              },
            ]}
          />
          <LinePlot
            title={rgb ? "R, G, B along the gray axis, turned down" : "Inks along the gray axis"}
            x={{
              name: "L*, paper to black",
              short: "L*",
              range: [100, Math.min(...found.gray_axis.map((row) => row[0] ?? 0))],
            }}
            y={{ name: rgb ? "turned down" : "ink", unit: "%", range: [0, 100] }}
            lines={found.inks.map((ink, k) => ({
              name: inkName(ink),
              color: inkColor(ink),
              points: found.gray_inks.map(
                (row, index) => [found.gray_axis[index]?.[0] ?? 0, (row[k] ?? 0) * 100] as [number, number],
              ),
            }))}
          />
          {!rgb && (
            <LinePlot
              title="Dot gain that it implies"
              x={{ name: "dot", unit: "%", range: [0, 100] }}
              y={{ name: "tone value", unit: "%", range: [0, 100] }}
              lines={Object.entries(found.gain).map(([ink, points]) => ({
                name: ink,
                color: inkColor(ink),
                points: points.map(
                  ([dot, tone]) => [(dot ?? 0) * 100, (tone ?? 0) * 100] as [number, number],
                ),
              }))}
            />
          )}
          {!rgb && dark.length > 0 && (
            <LinePlot
              title={`Total ink against darkness: ${percent(condition.total_ink_percent)} taken`}
              x={{
                name: "total ink",
                unit: "%",
                range: [
                  Math.min(...dark.map((each) => each.total_percent)),
                  Math.max(condition.total_ink_percent, ...dark.map((each) => each.total_percent)),
                ],
              }}
              y={{
                name: "L* of neutral black",
                range: [0, Math.max(...dark.map((each) => each.lightness)) * 1.15],
              }}
              mark={condition.total_ink_percent}
              lines={[
                {
                  name: "black",
                  color: "var(--ink)",
                  points: dark.map((each) => [each.total_percent, each.lightness]),
                },
              ]}
            />
          )}
          <RoundTripMap rows={found.round_trip_map} />
        </div>
      )}
      {judged && shown !== undefined && (
        <BeforeAfter condition={condition} artworks={artworks} shown={shown} onChoose={setPictured} />
      )}
      {/* What stands below the plots comes with them: it would be pushed down otherwise. */}
      {judged && report && report.wrong_patches.length > 0 && (
        <section>
          <h2 className="minor">Wrong patches, set aside: measure them again</h2>
          {report.wrong_patches.map((patch) => (
            <p key={patch.inks_percent.join()}>
              {condition.inks
                .map((ink, k) => `${inkName(ink)} ${fixed(patch.inks_percent[k] ?? 0, 0)}`)
                .join("  ")}
              : ΔE00 {fixed(patch.delta_e)} from what the others say
            </p>
          ))}
        </section>
      )}
      {judged && report && report.notes.length > 0 && (
        <section>
          <h2 className="minor">On the way</h2>
          {report.notes.map((note) => (
            <p key={note}>{note}</p>
          ))}
        </section>
      )}
      {judged && tried.length > 0 && (
        <section>
          <h2 className="minor">Smoothing, as patches held out chose it</h2>
          <table className="table narrow" aria-label="Smoothing tried">
            <thead>
              <tr>
                <th className="number">Smoothing</th>
                <th className="number">Held-out patches, ΔE00</th>
                <th className="number">Fitted patches, ΔE00</th>
                <th className="number">Waviness</th>
              </tr>
            </thead>
            <tbody>
              {tried.map((each) => (
                <tr key={each.smoothing} className={each.smoothing === report?.smoothing ? "strong" : ""}>
                  <td className="number">{each.smoothing}</td>
                  <td className="number">{fixed(each.left_out, 3)}</td>
                  <td className="number">{fixed(each.seen, 3)}</td>
                  <td className="number">{percent(each.bending * 100, 1)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
    </main>
  );
}
