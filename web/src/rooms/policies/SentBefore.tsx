import "./SentBefore.css";
import { Link } from "react-router";
import { type Output, useDocumentActions, useSentBefore } from "../../api/policyQueries";
import { counted, moment } from "../../shared/figures";

/** What went out as this output was before somebody changed it: documents to be sent again, artwork to be written again. */
export function SentBefore({ output }: { output: Output }) {
  const before = useSentBefore(output).data ?? [];
  const { send } = useDocumentActions();
  if (before.length === 0) return null;
  return (
    <details className="output-facts sent-before">
      <summary>{counted(before.length, "file was", "files were")} sent before the last change</summary>
      <p className="soft">Policy, rule or condition of this output is another one since.</p>
      <ul>
        {before.map((each) => (
          <li key={each.run_id}>
            <span>
              {each.name}, <time dateTime={each.sent_at}>{moment(each.sent_at)}</time>
            </span>
            <a
              href={`/runs/${each.run_id}/sheet`}
              target="_blank"
              rel="noreferrer"
              aria-label={`Report of ${each.name}`}
            >
              Report
            </a>
            {each.document_id ? (
              <button
                type="button"
                className="quiet-button"
                aria-label={`Send ${each.name} again`}
                disabled={send.isPending}
                onClick={() =>
                  each.document_id && send.mutate({ id: each.document_id, outputs: [output.id] })
                }
              >
                Send again
              </button>
            ) : (
              <Link
                to={`/bench/${each.artwork_id}/${each.condition}?at=deliver&rule=${output.id}`}
                aria-label={`Write ${each.name} again on the Bench`}
              >
                On the Bench
              </Link>
            )}
          </li>
        ))}
      </ul>
      {send.error && <p className="notice">{send.error.message}</p>}
    </details>
  );
}
