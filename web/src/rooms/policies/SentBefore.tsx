import { type Output, useDocumentActions, useSentBefore } from "../../api/policyQueries";
import { moment } from "../../shared/figures";
import "./SentBefore.css";

/** Documents that went out as this output was before somebody changed it, each to be looked at and sent again. */
export function SentBefore({ output }: { output: Output }) {
  const before = useSentBefore(output).data ?? [];
  const { send } = useDocumentActions();
  if (before.length === 0) return null;
  return (
    <details className="output-facts sent-before">
      <summary>
        {before.length === 1 ? "1 document was" : `${before.length} documents were`} sent before the last
        change
      </summary>
      <p className="soft">Policy, rule or condition of this output is another one since.</p>
      <ul>
        {before.map((each) => (
          <li key={each.document_id}>
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
            <button
              type="button"
              className="quiet-button"
              aria-label={`Send ${each.name} again`}
              disabled={send.isPending}
              onClick={() => send.mutate({ id: each.document_id, outputs: [output.id] })}
            >
              Send again
            </button>
          </li>
        ))}
      </ul>
      {send.error && <p className="notice">{send.error.message}</p>}
    </details>
  );
}
