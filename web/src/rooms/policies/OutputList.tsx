import "./OutputList.css";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import { useRef, useState } from "react";
import {
  type DeliveryRule,
  type Output,
  type PdfDocument,
  type Ticket,
  useDocumentActions,
  useOutputActions,
  useReadyMade,
} from "../../api/policyQueries";
import { useConditions, useRuns, useSession } from "../../api/queries";
import { FileInput } from "../../shared/ui/FileInput";
import { FileLink } from "../../shared/ui/FileLink";
import { History } from "../../shared/ui/History";
import { NumberField } from "../../shared/ui/NumberField";
import { RunLine } from "../../shared/ui/RunLine";
import { SettingName } from "../../shared/ui/SettingName";
import { SentBefore } from "./SentBefore";
import { TicketPart } from "./TicketPart";

/** What a new output asks of a document. */
const PLAIN_RULE: DeliveryRule = {
  name: "As it is",
  profiles: "none",
  output_intent: true,
  most_ppi: null,
  least_ppi: null,
  compression: "lossless",
  jpeg_quality: 92,
  pdf_version: "",
  spots: "keep",
  transparency: "keep",
};

const RANGES = { most_ppi: [10, 10_000], least_ppi: [10, 10_000], jpeg_quality: [50, 100] } as const;

const TICKET_WORDS: Record<string, string> = {
  once: "ticket mirrors wrongly",
  twice: "ticket converts twice",
  never: "ticket never converts",
};

const FRESH_TICKET: Ticket = {
  converts: ["application"],
  mirrors: [],
  transfer: false,
  profile: "",
  intent: "relative",
  bpc: true,
  medium: "",
  carriage_gap_mm: null,
  drying_minutes: null,
};

interface Props {
  outputs: Output[];
  chosen: Output | undefined;
  document: PdfDocument | undefined;
  refused: boolean;
  onChoose: (id: number) => void;
}

/** Printers and RIP queues, the delivery rule and notes of the chosen one, and sending through it. */
export function OutputList({ outputs, chosen, document, refused, onChoose }: Props) {
  const [adding, setAdding] = useState(false);
  const [also, setAlso] = useState<number[]>([]);
  const { send } = useDocumentActions();
  const sent = send.data?.map((run) => run.id) ?? [];
  const runs = useRuns().data?.filter((run) => sent.includes(run.id)) ?? [];
  const mayChange = useSession().data?.may.includes("house") ?? false;
  return (
    <aside className="outputs" aria-label="Outputs">
      <header>
        <h1 tabIndex={-1}>Outputs</h1>
        <p className="soft">A printer or a RIP queue each.</p>
      </header>
      <ul className="output-list">
        {outputs.map((each) => (
          <li key={each.id}>
            <button
              type="button"
              aria-pressed={each.id === chosen?.id}
              onClick={() => {
                onChoose(each.id);
                setAlso([]);
                send.reset();
              }}
            >
              <b>{each.name}</b>
              <span>
                {each.condition_name} · version {each.version}
              </span>
              {!each.ticket_right && (
                <em>{TICKET_WORDS[each.verdicts[0]?.verdict ?? ""] ?? "ticket to look at"}</em>
              )}
              {each.to_look_at.length > 0 && <em>condition changed</em>}
            </button>
          </li>
        ))}
      </ul>
      {mayChange && (
        <button type="button" className="quiet-button output-add" onClick={() => setAdding(!adding)}>
          {adding ? "Cancel" : "Add an output"}
        </button>
      )}
      {adding && <NewOutput onDone={() => setAdding(false)} />}
      {chosen && <SentBefore key={`sent ${chosen.id}`} output={chosen} />}
      {chosen && <Rule key={`${chosen.id} ${chosen.version}`} output={chosen} mayChange={mayChange} />}
      {chosen && <TicketPart key={chosen.id} output={chosen} mayChange={mayChange} />}
      {chosen && (
        <div className="output-facts">
          <PolicyFile key={chosen.id} output={chosen} mayChange={mayChange} />
          <History kind="output" recordKey={String(chosen.id)} mayChange={mayChange} />
        </div>
      )}
      <footer>
        {document && outputs.length > 1 && chosen && (
          <details>
            <summary>Through others too</summary>
            {outputs
              .filter((each) => each.id !== chosen.id)
              .map((each) => (
                <label key={each.id} className="also">
                  <input
                    type="checkbox"
                    checked={also.includes(each.id)}
                    onChange={(event) =>
                      setAlso(event.target.checked ? [...also, each.id] : also.filter((id) => id !== each.id))
                    }
                  />
                  {each.name}
                </label>
              ))}
          </details>
        )}
        {send.error && <p className="notice">{send.error.message}</p>}
        {runs.map((run) => (
          <RunLine key={run.id} run={run} />
        ))}
        <Button
          variant="contained"
          fullWidth
          disabled={!document || !chosen || send.isPending}
          onClick={() =>
            document && chosen && send.mutate({ id: document.id, outputs: [chosen.id, ...also] })
          }
        >
          {refused ? "Send through, to be refused" : "Send through"}
        </Button>
      </footer>
    </aside>
  );
}

/** The delivery rule, and what is set at the device. */
function Rule({ output, mayChange }: { output: Output; mayChange: boolean }) {
  const { save, lookedAt } = useOutputActions();
  const rule = output.rule;
  const change = (part: Partial<DeliveryRule>, more: { notes?: string } = {}) =>
    save.mutate({
      id: output.id,
      version: output.version,
      data: {
        name: output.name,
        condition: output.condition,
        policy: output.policy,
        notes: more.notes ?? output.notes,
        ticket: output.ticket,
        rule: { ...rule, ...part },
      },
    });
  const choice = <K extends "profiles" | "compression" | "spots" | "transparency" | "pdf_version">(
    name: K,
    label: string,
    options: readonly (readonly [DeliveryRule[K], string])[],
    aria = label,
  ) => (
    <div className="pair">
      <SettingName name={label} />
      <Select
        size="small"
        displayEmpty
        value={rule[name]}
        disabled={!mayChange}
        inputProps={{ "aria-label": aria }}
        onChange={(event) => change({ [name]: event.target.value })}
      >
        {options.map(([value, word]) => (
          <MenuItem key={value} value={value}>
            {word}
          </MenuItem>
        ))}
      </Select>
    </div>
  );
  const figure = (name: "most_ppi" | "least_ppi" | "jpeg_quality", label: string) => (
    <div className="pair">
      <SettingName name={label} />
      <NumberField
        label={label}
        value={rule[name]}
        min={RANGES[name][0]}
        max={RANGES[name][1]}
        optional={name !== "jpeg_quality"}
        whole={name === "jpeg_quality"}
        disabled={!mayChange}
        onKeep={(value) => change({ [name]: value })}
      />
    </div>
  );
  const failed = save.error ?? lookedAt.error;
  return (
    <>
      {output.to_look_at.length > 0 && (
        <div className="output-facts" role="status">
          <p className="notice">{output.to_look_at.join(" ")} Look at your documents again.</p>
          {mayChange && (
            <button type="button" className="quiet-button" onClick={() => lookedAt.mutate(output.id)}>
              I have looked at it
            </button>
          )}
        </div>
      )}
      <div className="output-facts">
        <h2>Delivery rule</h2>
        {choice("profiles", "Profiles", [
          ["none", "none"],
          ["inside", "inside"],
        ])}
        {figure("most_ppi", "At most, ppi")}
        {figure("least_ppi", "At least, ppi")}
        {choice(
          "compression",
          "Pictures",
          [
            ["lossless", "lossless"],
            ["jpeg", "JPEG"],
          ],
          "Compression of pictures",
        )}
        {rule.compression === "jpeg" && figure("jpeg_quality", "Quality")}
        {choice(
          "spots",
          "Spots left",
          [
            ["keep", "taken"],
            ["refuse", "refused"],
          ],
          "Spots that are left",
        )}
        {choice("transparency", "Transparency", [
          ["keep", "taken"],
          ["refuse", "refused"],
        ])}
        {choice("pdf_version", "PDF version", [
          ["", "its own"],
          ["1.4", "PDF 1.4"],
          ["1.6", "PDF 1.6"],
          ["1.7", "PDF 1.7"],
          ["2.0", "PDF 2.0"],
        ])}
        <label className="notes">
          <span>Notes</span>
          <textarea
            className="plain-input"
            rows={2}
            defaultValue={output.notes}
            disabled={!mayChange}
            onBlur={(event) =>
              event.target.value !== output.notes && change({}, { notes: event.target.value })
            }
          />
        </label>
        {failed && (
          <p className="notice" role="alert">
            {failed.message}
          </p>
        )}
      </div>
    </>
  );
}

function NewOutput({ onDone }: { onDone: () => void }) {
  const conditions = useConditions().data ?? [];
  const ready = useReadyMade().data ?? [];
  const { save } = useOutputActions();
  const [name, setName] = useState("");
  const [condition, setCondition] = useState("");
  const [policy, setPolicy] = useState("");
  const start = ready.find((each) => each.policy.name === policy) ?? ready[0];
  return (
    <form
      className="output-facts"
      onSubmit={(event) => {
        event.preventDefault();
        if (start)
          save.mutate(
            {
              version: 0,
              data: {
                name,
                condition,
                policy: start.policy,
                rule: PLAIN_RULE,
                ticket: FRESH_TICKET,
                notes: "",
              },
            },
            { onSuccess: onDone },
          );
      }}
    >
      <label>
        <span>Name</span>
        <input
          className="plain-input"
          required
          maxLength={80}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      </label>
      <div className="pair">
        <span>Condition</span>
        <Select
          size="small"
          displayEmpty
          value={condition}
          inputProps={{ "aria-label": "Condition of the output" }}
          onChange={(event) => setCondition(event.target.value)}
        >
          <MenuItem value="">None: RGB</MenuItem>
          {conditions.map((each) => (
            <MenuItem key={each.slug} value={each.slug}>
              {each.name}
            </MenuItem>
          ))}
        </Select>
      </div>
      <div className="pair">
        <span>Policy</span>
        <Select
          size="small"
          value={start?.policy.name ?? ""}
          inputProps={{ "aria-label": "Policy to start from" }}
          onChange={(event) => setPolicy(event.target.value)}
        >
          {ready.map((each) => (
            <MenuItem key={each.policy.name} value={each.policy.name}>
              {each.policy.name}
            </MenuItem>
          ))}
        </Select>
      </div>
      {save.error && (
        <p className="notice" role="alert">
          {save.error.message}
        </p>
      )}
      <Button type="submit" disabled={save.isPending}>
        Add it
      </Button>
    </form>
  );
}

/** The policy as one file, out and in; and the end of the output. */
function PolicyFile({ output, mayChange }: { output: Output; mayChange: boolean }) {
  const { remove, importPolicy } = useOutputActions();
  const input = useRef<HTMLInputElement>(null);
  const failed = remove.error ?? importPolicy.error;
  return (
    <>
      <h2>Policy</h2>
      <FileLink href={`/api/policies/outputs/${output.id}/policy`}>Export it with its profiles</FileLink>
      {mayChange && (
        <button type="button" className="quiet-button" onClick={() => input.current?.click()}>
          {importPolicy.isPending ? "Reading it" : "Import another in its place"}
        </button>
      )}
      <FileInput
        at={input}
        label="A policy as a file"
        accept=".json"
        onFile={(file) => importPolicy.mutate({ id: output.id, version: output.version, file })}
      />
      {failed && (
        <p className="notice" role="alert">
          {failed.message}
        </p>
      )}
      {mayChange && (
        <button type="button" className="quiet-button" onClick={() => remove.mutate(output.id)}>
          Remove this output
        </button>
      )}
    </>
  );
}
