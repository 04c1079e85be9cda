import "./TicketPart.css";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import { useEffect, useRef, useState } from "react";
import {
  type Output,
  type StripRead,
  type Ticket,
  useCheckStrip,
  useOutputActions,
} from "../../api/policyQueries";
import { fixed, percent } from "../../shared/figures";
import { MEASUREMENT_FILES } from "../../shared/measurementFiles";
import { FileInput } from "../../shared/ui/FileInput";
import { FileLink } from "../../shared/ui/FileLink";
import { NumberField } from "../../shared/ui/NumberField";

/** Who may convert colors, and who may mirror, as they are called on the screen. */
const CONVERTERS = [
  ["application", "Plinto"],
  ["driver", "the driver"],
  ["RIP", "the RIP"],
] as const;
const MIRRORS = [...CONVERTERS, ["press", "the press"]] as const;

/** Beyond any printer. */
const MOST = { carriage_gap_mm: 50, drying_minutes: 10_000 } as const;

interface Props {
  output: Output;
  mayChange: boolean;
}

/** What is set at the device, what follows from it, and the strip that tells from paper how it is really set. */
export function TicketPart({ output, mayChange }: Props) {
  const { save } = useOutputActions();
  // What was just set shows at once; what the server then has comes back with the next version.
  const [ticket, setTicket] = useState(output.ticket);
  useEffect(() => setTicket(output.ticket), [output.ticket]);
  const onChange = (next: Ticket) => {
    setTicket(next);
    save.mutate(
      { id: output.id, version: output.version, data: { ...output, ticket: next } },
      { onError: () => setTicket(output.ticket) },
    );
  };
  const places = <K extends "converts" | "mirrors">(
    key: K,
    legend: string,
    all: readonly (readonly [Ticket[K][number], string])[],
  ) => (
    <fieldset disabled={!mayChange}>
      <legend>{legend}</legend>
      {all.map(([place, word]) => {
        const chosen = ticket[key] as string[];
        return (
          <label key={place}>
            <input
              type="checkbox"
              aria-label={`${legend}: ${word}`}
              checked={chosen.includes(place)}
              onChange={() =>
                onChange({
                  ...ticket,
                  [key]: chosen.includes(place)
                    ? chosen.filter((each) => each !== place)
                    : [...chosen, place],
                })
              }
            />
            {word}
          </label>
        );
      })}
    </fieldset>
  );
  const typed = (name: "carriage_gap_mm" | "drying_minutes", label: string) => (
    <div className="pair">
      <span>{label}</span>
      <NumberField
        label={label}
        value={ticket[name]}
        min={0}
        max={MOST[name]}
        optional
        disabled={!mayChange}
        onKeep={(value) => onChange({ ...ticket, [name]: value })}
      />
    </div>
  );
  return (
    <section className="output-facts ticket" aria-label="Ticket">
      <h2>Ticket</h2>
      <p className={output.ticket_right ? "soft" : "notice"}>
        {output.verdicts.map((each) => each.said).join(" ")}
      </p>
      {places("converts", "Colors are converted by", CONVERTERS)}
      {places("mirrors", "Mirrored by", MIRRORS)}
      <label className="check">
        <input
          type="checkbox"
          checked={ticket.transfer}
          disabled={!mayChange}
          onChange={(event) => onChange({ ...ticket, transfer: event.target.checked })}
        />
        Transfer: printed face down
      </label>
      {typed("carriage_gap_mm", "Carriage gap, mm")}
      {typed("drying_minutes", "Drying, minutes")}
      {save.error && (
        <p className="notice" role="alert">
          {save.error.message}
        </p>
      )}
      {output.condition && <CheckStrip output={output} />}
    </section>
  );
}

/** Print it, measure it, and read how the device is set. */
function CheckStrip({ output }: { output: Output }) {
  const [open, setOpen] = useState(false);
  const { strip, print, read } = useCheckStrip(output, open);
  const [device, setDevice] = useState("");
  const [way, setWay] = useState("once");
  const input = useRef<HTMLInputElement>(null);
  const printer = device || strip.data?.printers[0]?.slug || "";
  const address = `/api/policies/outputs/${output.id}/strip`;
  const found = [print, read].find((each) => each.data)?.data;
  const failed = strip.error ?? print.error ?? read.error;
  return (
    <details onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary>Check strip</summary>
      {open && (
        <div className="strip">
          <p className="soft">
            {strip.data ? `${strip.data.patches} patches` : "A few patches"}, printed as any RGB job: they
            tell from paper how the device is set.
          </p>
          <span className="answers">
            <FileLink href={`${address}.pdf`}>To print (PDF)</FileLink>
            <FileLink href={`${address}.txt`}>To measure (CGATS)</FileLink>
          </span>
          <button
            type="button"
            className="quiet-button"
            disabled={read.isPending}
            onClick={() => input.current?.click()}
          >
            {read.isPending ? "Reading it" : "Import a measured strip"}
          </button>
          <FileInput
            at={input}
            label="Measured check strip"
            accept={MEASUREMENT_FILES}
            onFile={(file) => {
              print.reset();
              read.mutate(file);
            }}
          />
          {strip.data && strip.data.printers.length > 0 && (
            <>
              <Select
                size="small"
                value={printer}
                inputProps={{ "aria-label": "Printer of the strip" }}
                onChange={(event) => setDevice(event.target.value)}
              >
                {strip.data.printers.map((each) => (
                  <MenuItem key={each.slug} value={each.slug}>
                    {each.name}
                  </MenuItem>
                ))}
              </Select>
              <Select
                size="small"
                value={way}
                inputProps={{ "aria-label": "How its driver is set" }}
                onChange={(event) => setWay(event.target.value)}
              >
                {strip.data.ways.map((each) => (
                  <MenuItem key={each.name} value={each.name} title={each.said}>
                    Driver: {each.name}
                  </MenuItem>
                ))}
              </Select>
              <button
                type="button"
                className="quiet-button"
                disabled={print.isPending}
                onClick={() => {
                  read.reset();
                  print.mutate({ device: printer, way });
                }}
              >
                {print.isPending ? "Printing and measuring" : "Print and measure it"}
              </button>
            </>
          )}
          {failed && (
            <p className="notice" role="alert">
              {failed.message}
            </p>
          )}
          {found && <Verdict found={found} />}
        </div>
      )}
    </details>
  );
}

function Verdict({ found }: { found: StripRead }) {
  return (
    <div role="status">
      <p className={found.cause === "once" ? "strong" : "notice"}>{found.said}</p>
      <table className="table ways">
        <thead>
          <tr>
            <th>Set-up</th>
            <th className="number">Likely</th>
            <th className="number">ΔE00</th>
          </tr>
        </thead>
        <tbody>
          {found.ranked.slice(0, 4).map((each) => (
            <tr key={each.name} title={each.said}>
              <td>{each.name}</td>
              <td className="number">{percent(100 * each.likelihood)}</td>
              <td className="number">{fixed(each.delta_e)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
