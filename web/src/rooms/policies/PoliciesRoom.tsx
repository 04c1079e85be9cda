import "./policies.css";
import "./PoliciesRoom.css";
import { useMemo, useState } from "react";
import { useSearchParams } from "react-router";
import {
  type Beside,
  type DecisionRecord,
  useCompared,
  useDecisions,
  useDocuments,
  useOutputs,
  usePageDecisions,
} from "../../api/policyQueries";
import { BesideChoice, ComparedTable } from "./ComparedTable";
import { DecisionTable } from "./DecisionTable";
import { DocumentStage } from "./DocumentStage";
import { OutputList } from "./OutputList";
import { RowPanel } from "./RowPanel";

/** By what one line of a page is told from another. */
const sameAs = (each: DecisionRecord) =>
  `${each.row} ${each.object} ${each.found} ${each.done} ${each.written}`;

/** Outputs and their policies, seen on a document: what each row catches, what is done with it, and how it prints. */
export function PoliciesRoom() {
  const outputs = useOutputs();
  const documents = useDocuments();
  // What is looked at stands in the address, for a colleague and for the way back.
  const [params, setParams] = useSearchParams();
  const look = (name: "output" | "document" | "page", value: number, begins: string[] = []) => {
    const next = new URLSearchParams(window.location.search);
    next.set(name, String(value));
    for (const other of begins) next.delete(other);
    setParams(next, { replace: name === "page" });
  };
  const [outputId, documentId] = [Number(params.get("output")), Number(params.get("document"))];
  const page = Number(params.get("page")) || 1;
  const [row, setRow] = useState<number>();
  const [record, setRecord] = useState<number>();
  const output = outputs.data?.find((each) => each.id === outputId) ?? outputs.data?.[0];
  const document = documents.data?.find((each) => each.id === documentId) ?? documents.data?.[0];
  const told = useDecisions(document, output);
  const onPage = usePageDecisions(document, output, page, (told.data?.more ?? 0) > 0);
  const decisions = useMemo(() => {
    if (!told.data || !onPage.data) return told.data;
    // Of the page that is looked at everything is there, however much the document has; what was there stays in its place.
    const { records, more } = told.data;
    const there = new Set(records.filter((each) => each.page === page).map(sameAs));
    const further = onPage.data.filter((each) => !there.has(sameAs(each)));
    return { ...told.data, records: [...records, ...further], more: Math.max(0, more - further.length) };
  }, [told.data, onPage.data, page]);
  const [beside, setBeside] = useState<Beside>();
  const [line, setLine] = useState<number>();
  const compared = useCompared(document, output, beside);
  const differing = beside && line !== undefined ? compared.data?.differing[line] : undefined;
  const failed = outputs.error ?? documents.error ?? told.error ?? onPage.error ?? compared.error;

  const setPage = (to: number) => {
    // A line that is there for the sake of the page goes with it.
    if (to !== page && (record ?? 0) >= (told.data?.records.length ?? 0)) setRecord(undefined);
    look("page", to);
  };
  const show = (at: number, of: number) => {
    setPage(of);
    setRecord(at);
  };
  return (
    <main className="policies">
      <OutputList
        outputs={outputs.data ?? []}
        chosen={output}
        document={document}
        refused={decisions?.refused ?? false}
        onChoose={(id) => {
          look("output", id);
          setRow(undefined);
          setRecord(undefined);
          setBeside(undefined);
        }}
      />
      <div className="policies-middle">
        {failed && (
          <p className="notice" role="alert">
            {failed.message}
          </p>
        )}
        <DocumentStage
          documents={documents.data}
          document={document}
          output={output}
          page={page}
          row={row}
          record={record}
          decisions={decisions}
          differing={
            differing && differing.page === page ? { key: "differing", boxes: differing.boxes } : undefined
          }
          onDocument={(id) => {
            look("document", id, ["page"]);
            setLine(undefined);
            setRecord(undefined);
          }}
          onPage={setPage}
          onPoint={(at) => setRecord(at)}
        />
      </div>
      {output && <RowPanel output={output} decisions={decisions} chosen={row} onChoose={setRow} />}
      {beside && output ? (
        <ComparedTable
          outputs={outputs.data ?? []}
          output={output}
          beside={beside}
          compared={compared.data}
          reading={compared.reading}
          chosen={line}
          onBeside={(next) => {
            setBeside(next);
            setLine(undefined);
          }}
          onChoose={(at, onPage) => {
            setLine(at);
            setPage(onPage);
          }}
        />
      ) : (
        <DecisionTable
          decisions={decisions}
          busy={told.isFetching}
          reading={told.reading}
          page={page}
          row={row}
          chosen={record}
          onChoose={show}
          choice={
            output &&
            document && (
              <BesideChoice
                outputs={outputs.data ?? []}
                output={output}
                beside={beside}
                onBeside={setBeside}
              />
            )
          }
        />
      )}
    </main>
  );
}
