import "./RowPanel.css";
import {
  type Catches,
  type Decisions,
  type Output,
  type Row,
  useOutputActions,
} from "../../api/policyQueries";
import { useSession } from "../../api/queries";
import { counted, whole } from "../../shared/figures";
import { PolicyAssumptions } from "./PolicyAssumptions";
import { RowEditor } from "./RowEditor";

interface Props {
  output: Output;
  decisions: Decisions | undefined;
  chosen: number | undefined;
  onChoose: (row: number | undefined) => void;
}

/** What a new row catches until somebody says. */
const NEW_CATCHES: Catches = {
  spaces: ["RGB"],
  objects: [],
  tagged: null,
  color: "any",
  spots: [],
  overprint: null,
  ink_over: null,
  ppi_under: null,
  ppi_over: null,
};
/** The rows of a policy as a sieve: what falls into each, how much of the open document, and what is done with it. */
export function RowPanel({ output, decisions, chosen, onChoose }: Props) {
  const { save } = useOutputActions();
  const mayChange = useSession().data?.may.includes("house") ?? false;
  const rows = output.policy.rows;
  const saveAs = (part: Partial<Pick<Output, "condition" | "policy">>, then?: number) =>
    save.mutate(
      { id: output.id, version: output.version, data: { ...output, ...part } },
      { onSuccess: () => then !== undefined && onChoose(then) },
    );
  const put = (next: Row[], then?: number) => saveAs({ policy: { ...output.policy, rows: next } }, then);
  const swap = (at: number, by: number) => {
    const to = at + by;
    // The last row catches what is left, and stays the last.
    if (to < 0 || to >= rows.length - 1 || at === rows.length - 1) return;
    const next = [...rows];
    const [moved] = next.splice(at, 1);
    if (moved) next.splice(to, 0, moved);
    put(next, to);
  };
  const total = decisions?.objects ?? 0;
  let falling = total;
  return (
    <aside className="rows" aria-label="Policy">
      <header>
        <h2>
          {output.policy.name}, version {output.version}
        </h2>
        <p className="soft">Each color falls until a row catches it.</p>
      </header>
      {save.error && (
        <p className="notice" role="alert">
          {save.error.message}
        </p>
      )}
      <ol className="fall">
        {rows.map((row, at) => {
          const found = decisions?.rows.find((each) => each.row === at + 1);
          const before = falling;
          falling -= found?.objects ?? 0;
          const words = output.words[at];
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: a row is its place
            <li key={at} className={row.off ? "off" : ""}>
              <i
                className="falling"
                style={{ width: total ? Math.max(before ? 1 : 0, (18 * before) / total) : 0 }}
              />
              <button
                type="button"
                aria-pressed={chosen === at}
                aria-expanded={chosen === at}
                onClick={() => onChoose(chosen === at ? undefined : at)}
                onKeyDown={(event) => {
                  if (!event.altKey || !mayChange) return;
                  if (event.key === "ArrowUp") swap(at, -1);
                  if (event.key === "ArrowDown") swap(at, 1);
                }}
              >
                <span>
                  <b>
                    {at + 1} {words?.catches}
                  </b>
                  <span>{row.off ? "off: everything falls through" : words?.does}</span>
                </span>
                <span className="row-count">
                  <b>{found ? whole(found.objects) : "–"}</b>
                  <small>{found ? counted(found.pages, "page") : ""}</small>
                </span>
              </button>
              {chosen === at && mayChange && (
                <RowEditor
                  key={output.version}
                  row={row}
                  last={at === rows.length - 1}
                  toInks={output.policy.into === "condition"}
                  onChange={(next) => put(rows.map((each, other) => (other === at ? next : each)))}
                  onMove={(by) => swap(at, by)}
                  onRemove={() => {
                    onChoose(undefined);
                    put(rows.filter((_, other) => other !== at));
                  }}
                />
              )}
            </li>
          );
        })}
      </ol>
      <footer>
        {mayChange && (
          <button
            type="button"
            className="quiet-button"
            onClick={() =>
              put(
                [
                  {
                    catches: NEW_CATCHES,
                    does: { kind: "leave" },
                    off: true,
                  },
                  ...rows,
                ],
                0,
              )
            }
          >
            Add a row at the top
          </button>
        )}
        <PolicyAssumptions output={output} mayChange={mayChange} onSave={saveAs} />
      </footer>
    </aside>
  );
}
