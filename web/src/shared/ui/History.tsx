import "./changes.css";
import "./History.css";
import { useState } from "react";
import { type Revision, useGoBack, useHistory } from "../../api/recordQueries";
import { moment } from "../figures";
import { Changed } from "./Changed";

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
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a long history is scrolled by keys */}
      <ol className="revisions" tabIndex={0}>
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
      {found.hasNextPage && (
        <button
          type="button"
          className="quiet-button"
          disabled={found.isFetchingNextPage}
          onClick={() => found.fetchNextPage()}
        >
          Earlier changes
        </button>
      )}
    </>
  );
}

function Changes({ revision }: { revision: Revision }) {
  if (revision.action === "made" || revision.action === "removed") return null;
  return <Changed changes={revision.changes} />;
}
