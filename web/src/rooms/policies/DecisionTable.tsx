import { useEffect, useMemo, useRef, useState } from "react";
import type { DecisionRecord, Decisions, Reading } from "../../api/policyQueries";
import { fixed, lab } from "../../shared/figures";
import { ReadingLine } from "./ReadingLine";

type Column = "page" | "object" | "done" | "delta_e";
const MOST_SHOWN = 400;

interface Props {
  decisions: Decisions | undefined;
  busy: boolean;
  /** The job that reads a large document. */
  reading: Reading | undefined;
  row: number | undefined;
  chosen: number | undefined;
  onChoose: (record: number, page: number) => void;
  /** What stands at the end of the sums. */
  choice: React.ReactNode;
}

/** Every kind of decision on each page, refused first; a line and its objects on the page choose each other. */
export function DecisionTable({ decisions, busy, reading, row, chosen, onChoose, choice }: Props) {
  const [by, setBy] = useState<Column>();
  const line = useRef<HTMLTableRowElement>(null);
  const listed = useMemo(() => {
    const all = (decisions?.records ?? []).map((each, at) => ({ ...each, at }));
    const wanted = row === undefined ? all : all.filter((each) => each.row === row + 1);
    if (!by) return wanted;
    const value = (each: DecisionRecord) => each[by] ?? -1;
    const order = (a: DecisionRecord, b: DecisionRecord) => (value(a) < value(b) ? -1 : 1);
    return [...wanted].sort(by === "delta_e" ? (a, b) => -order(a, b) : order);
  }, [decisions, row, by]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the line moves when another is chosen
  useEffect(() => line.current?.scrollIntoView({ block: "nearest" }), [chosen]);
  if (!decisions)
    return (
      <section className="decisions soft" aria-busy={busy}>
        {reading ? <ReadingLine reading={reading} /> : busy && "Reading every color"}
      </section>
    );
  const counts = decisions.decisions;
  const head = (column: Column, word: string, number = false) => (
    <th className={number ? "number" : ""} aria-sort={by === column ? "ascending" : undefined}>
      <button
        type="button"
        className="quiet-button"
        onClick={() => setBy(by === column ? undefined : column)}
      >
        {word}
      </button>
    </th>
  );
  return (
    <section className="decisions" aria-label="Decisions" aria-busy={busy}>
      <div className="decision-sums">
        <b>
          {decisions.objects.toLocaleString("en")} objects on {decisions.pages}{" "}
          {decisions.pages === 1 ? "page" : "pages"}
        </b>
        {decisions.refused && <b>refused: not sent on as it is</b>}
        <span>{counts.refuse ?? 0} refused</span>
        <span>{(counts.convert ?? 0) + (counts["clean solids"] ?? 0)} converted</span>
        <span>{counts["black only"] ?? 0} black only</span>
        <span>{counts.leave ?? 0} left</span>
        {decisions.drift !== null && (
          <span title="Mean ΔE00 between prints of one picture that is placed under several profiles">
            same picture up to ΔE00 {fixed(decisions.drift)} apart
          </span>
        )}
        {decisions.notes.slice(0, 2).map((note) => (
          <span key={note}>{note}</span>
        ))}
        {choice}
      </div>
      <div className="decision-scroll">
        <table className="table">
          <thead>
            <tr>
              {head("page", "Page")}
              {head("object", "Object")}
              <th>Found</th>
              {head("done", "Row: what is done")}
              <th>Why</th>
              <th className="number">Printed L* a* b*</th>
              {head("delta_e", "ΔE00", true)}
            </tr>
          </thead>
          <tbody>
            {listed.slice(0, MOST_SHOWN).map((each) => (
              <tr
                key={each.at}
                ref={each.at === chosen ? line : undefined}
                className={each.at === chosen ? "chosen" : each.done === "refused" ? "strong" : ""}
              >
                <td>{each.page}</td>
                <td>
                  <button
                    type="button"
                    className="quiet-button"
                    aria-pressed={each.at === chosen}
                    aria-label={`${each.object}${each.times > 1 ? ` × ${each.times}` : ""}, ${each.found}, page ${each.page}`}
                    onClick={() => onChoose(each.at, each.page)}
                  >
                    {each.object}
                    {each.times > 1 ? ` × ${each.times}` : ""}
                  </button>
                </td>
                <td>{each.found}</td>
                <td>
                  {each.row}: {each.done} {each.written}
                </td>
                <td>{each.why || (each.source ? `from ${each.source}, ${each.intent}` : "")}</td>
                <td className="number">{each.lab.length ? lab(each.lab) : "–"}</td>
                <td className="number">{each.delta_e === null ? "–" : fixed(each.delta_e, 1)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {listed.length + decisions.more > MOST_SHOWN && (
          <p className="soft">
            {Math.min(MOST_SHOWN, listed.length)} of {(listed.length + decisions.more).toLocaleString("en")}{" "}
            lines are shown; choose a row to see its own.
          </p>
        )}
      </div>
    </section>
  );
}
