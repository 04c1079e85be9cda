import { useState } from "react";
import { type Revision, useGoBack, useHistory } from "../../api/recordQueries";
import { moment } from "../figures";
import "./history.css";

const MOST_LETTERS = 200;

interface Props {
  kind: string;
  /** Of one thing; without it the changes of everything of the kind, or of everything. */
  recordKey?: string;
  mayChange?: boolean;
}

/** Who changed what, when, how it was before, and the way back; asked for when it is opened. */
export function History(props: Props & { label?: string }) {
  const [open, setOpen] = useState(false);
  return (
    <section className="history">
      <button type="button" className="quiet-button" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Hide the history" : (props.label ?? "History")}
      </button>
      {open && <Revisions {...props} />}
    </section>
  );
}

export function Revisions({ kind, recordKey, mayChange }: Props) {
  const found = useHistory(kind, recordKey);
  const back = useGoBack();
  if (found.error) return <p className="notice">{found.error.message}</p>;
  if (!found.data) return <p className="soft">Looking it up</p>;
  // The newest change in the list is the version that whoever goes back has looked at.
  const [newest] = found.data;
  if (!newest) return <p className="soft">Nobody has changed it yet.</p>;
  return (
    <>
      {back.error && (
        <p className="notice" role="alert">
          {back.error.message}
        </p>
      )}
      <ol className="revisions">
        {found.data.map((each, index) => (
          <li key={`${each.kind} ${each.key} ${each.number}`}>
            <div>
              <span className="strong">{each.author_name || "the house"}</span> {each.action}
              {recordKey === undefined && <> {`${each.kind} '${each.name}'`}</>}
              <span className="soft"> {moment(each.at)}</span>
            </div>
            <Changes revision={each} />
            {mayChange && recordKey !== undefined && index > 0 && each.can_restore && (
              <button
                type="button"
                className="quiet-button"
                disabled={back.isPending}
                onClick={() =>
                  back.mutate({ kind, key: recordKey, number: each.number, version: newest.number })
                }
              >
                Go back to this
              </button>
            )}
          </li>
        ))}
      </ol>
    </>
  );
}

function Changes({ revision }: { revision: Revision }) {
  if (revision.action === "made" || revision.action === "removed") return null;
  return (
    <ul>
      {revision.changes.map((change) => (
        <li key={change.field}>
          {change.field.replaceAll("_", " ")}: <Difference before={change.before} after={change.after} />
        </li>
      ))}
    </ul>
  );
}

/** Long lists are told by the places that differ. */
function Difference({ before, after }: { before: unknown; after: unknown }) {
  if (Array.isArray(before) && Array.isArray(after) && JSON.stringify(after).length > MOST_LETTERS) {
    const length = Math.max(before.length, after.length);
    const places = Array.from({ length }, (_, at) => at).filter(
      (at) => JSON.stringify(before[at]) !== JSON.stringify(after[at]),
    );
    return (
      <>
        {before.length === after.length ? "" : `${before.length} → ${after.length}, `}
        {places.map((at) => at + 1).join(", ")} changed
      </>
    );
  }
  return (
    <>
      <s>{said(before)}</s> → {said(after)}
    </>
  );
}

function said(value: unknown): string {
  if (value === null || value === undefined || value === "") return "nothing";
  return typeof value === "string" ? value : JSON.stringify(value);
}
