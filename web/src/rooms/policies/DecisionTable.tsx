import { useEffect, useMemo, useRef, useState } from "react";
import type { DecisionRecord, Decisions, Reading } from "../../api/policyQueries";
import { counted, fixed, lab, whole } from "../../shared/figures";
import { ReadingLine } from "./ReadingLine";

type Column = "page" | "object" | "done" | "delta_e";
const MOST_SHOWN = 400;

interface Props {
  decisions: Decisions | undefined;
  busy: boolean;
  /** The job that reads a large document. */
  reading: Reading | undefined;
  page: number;
  row: number | undefined;
  chosen: number | undefined;
  onChoose: (record: number, page: number) => void;
  /** What stands at the end of the sums. */
  choice: React.ReactNode;
}

const count = (of: number | undefined) => whole(of ?? 0);

/** Every kind of decision on each page, refused first; a line and its objects on the page choose each other. */
export function DecisionTable({ decisions, busy, reading, page, row, chosen, onChoose, choice }: Props) {
  const [by, setBy] = useState<Column>();
  const [only, setOnly] = useState(false);
  const line = useRef<HTMLTableRowElement>(null);
  const listed = useMemo(() => {
    const all = (decisions?.records ?? []).map((each, at) => ({ ...each, at }));
    const wanted = all.filter(
      (each) => (row === undefined || each.row === row + 1) && (!only || each.page === page),
    );
    if (!by) return wanted;
    const value = (each: DecisionRecord) => each[by] ?? -1;
    const order = (a: DecisionRecord, b: DecisionRecord) => (value(a) < value(b) ? -1 : 1);
    return [...wanted].sort(by === "delta_e" ? (a, b) => -order(a, b) : order);
  }, [decisions, row, by, only, page]);
  const at = listed.findIndex((each) => each.at === chosen);
  // What is pointed at on the page is among the lines, however far down it would stand.
  const from = at < MOST_SHOWN ? 0 : at - MOST_SHOWN / 2;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the line moves when another is chosen
  useEffect(() => line.current?.scrollIntoView({ block: "nearest" }), [chosen]);
  if (!decisions)
    return (
      <section className="decisions soft" aria-busy={busy}>
        {reading ? <ReadingLine reading={reading} /> : busy && "Reading every color"}
      </section>
    );
  const counts = decisions.decisions;
  const more = only ? 0 : decisions.more;
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
          {counted(decisions.objects, "object")} on {counted(decisions.pages, "page")}
        </b>
        {decisions.refused && <b>refused: not sent on as it is</b>}
        <span>{count(counts.refuse)} refused</span>
        <span>{count((counts.convert ?? 0) + (counts["clean solids"] ?? 0))} converted</span>
        <span>{count(counts["black only"])} black only</span>
        <span>{count(counts.leave)} left</span>
        {decisions.drift !== null && (
          <span title="Mean ΔE00 between prints of one picture that is placed under several profiles">
            same picture up to ΔE00 {fixed(decisions.drift)} apart
          </span>
        )}
        {decisions.notes.slice(0, 2).map((note) => (
          <span key={note}>{note}</span>
        ))}
        {decisions.pages > 1 && (
          <label className="check">
            <input type="checkbox" checked={only} onChange={(event) => setOnly(event.target.checked)} /> Page{" "}
            {page} only
          </label>
        )}
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
            {listed.slice(from, from + MOST_SHOWN).map((each) => (
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
                <td>{each.why}</td>
                <td className="number">{each.lab.length ? lab(each.lab) : "–"}</td>
                <td className="number">{each.delta_e === null ? "–" : fixed(each.delta_e, 1)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {listed.length + more > MOST_SHOWN && (
          <p className="soft">
            {count(Math.min(MOST_SHOWN, listed.length))} of {count(listed.length + more)} lines are shown;
            choose a row, or this page only, to see fewer.
          </p>
        )}
      </div>
    </section>
  );
}
