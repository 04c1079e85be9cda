import "./ProofingSystem.css";
import Button from "@mui/material/Button";
import { useState } from "react";
import { type Proof, type ProofAsked, type Step, useColorLists, useProof } from "../../api/colorQueries";
import { counted, fixed, lab, percent } from "../../shared/figures";
import { NumberField } from "../../shared/ui/NumberField";

type Tolerance =
  | "paper"
  | "solids"
  | "solids_hue"
  | "grays_mean"
  | "grays_largest"
  | "outer_mean"
  | "spots"
  | "mean"
  | "p95";

/** What is to be judged; tolerances that were set stand in it, the others are the standard's. */
export interface JudgedProof {
  /** The press's profile and the proofing printer's, and the list of spot inks that the proof has to show. */
  of: Pick<ProofAsked, "press" | "printer" | "spots_id">;
  allowed: Partial<Record<Tolerance, number>>;
}

const STATES = { held: "held", broken: "broken", untold: "cannot be told" };

interface Props {
  steps: Step[];
  devices: [string, string][];
  onFound: (proof: JudgedProof) => void;
}

/** A press and the printer that proofs it, chosen from what the route goes through. */
export function ProofingSystem({ steps, devices, onFound }: Props) {
  const known = steps.filter((each) => each.profile.length === 64);
  const [press, setPress] = useState(known[0]?.profile ?? "");
  const [printer, setPrinter] = useState(known.at(-1)?.profile ?? "");
  const [spots, setSpots] = useState("");
  const lists = (useColorLists().data ?? []).filter((each) => each.channels[0] === "L*");
  const choice = (label: string, value: string, onChange: (next: string) => void) => (
    <label>
      {label}{" "}
      <select className="field" value={value} onChange={(event) => onChange(event.target.value)}>
        <option value="">choose a profile</option>
        {devices.map(([digest, text]) => (
          <option key={digest} value={digest}>
            {text}
          </option>
        ))}
      </select>
    </label>
  );
  return (
    <>
      {choice("Press", press, setPress)}
      {choice("Proofing printer", printer, setPrinter)}
      <label>
        Spot inks{" "}
        <select className="field" value={spots} onChange={(event) => setSpots(event.target.value)}>
          <option value="">none</option>
          {lists.map((each) => (
            <option key={each.id} value={each.id}>
              {each.name}
            </option>
          ))}
        </select>
      </label>
      <Button
        disabled={!press || !printer}
        onClick={() =>
          onFound({ of: { press, printer, ...(spots && { spots_id: Number(spots) }) }, allowed: {} })
        }
      >
        Judge it over a grid
      </Button>
    </>
  );
}

/** The verdict, requirement by requirement; what is allowed can be set to the house's own. */
export function ProofVerdict({
  of,
  allowed,
  onChange,
}: JudgedProof & { onChange: (next: JudgedProof) => void }) {
  const judged: ProofAsked = { ...of, side: 9, ...allowed };
  const proof = useProof(judged);
  const found = proof.data;
  if (proof.error) {
    return (
      <p className="notice" role="alert">
        {proof.error.message}
      </p>
    );
  }
  if (!found) {
    return <p role="status">Judging the proof</p>;
  }
  const asked = new URLSearchParams(Object.entries({ ...of, ...allowed }).map(([k, v]) => [k, String(v)]));
  return (
    <div className="proof-verdict">
      <div role="status">
        <p>
          <span className="strong">
            {found.press}, proofed on {found.proofer}
          </span>
          , ICC-absolute over {counted(found.colors, "color")}
        </p>
        <p className="strong">{found.verdict}</p>
      </div>
      <div className="parts">
        <Requirements
          found={found}
          onAllow={(what, most) => onChange({ of, allowed: { ...allowed, [what]: most } })}
        />
        <div>
          <h3>Over all colors, ΔE00</h3>
          <dl className="over-all">
            <Pair term="mean" value={fixed(found.mean, 2)} />
            <Pair term="95 % within" value={fixed(found.p95, 2)} />
            <Pair term="99 % within" value={fixed(found.p99, 2)} />
            <Pair term="largest" value={fixed(found.largest, 2)} />
            <Pair term="above 3" value={percent(found.over_three_percent, 1)} />
            {Object.entries(found.apart).map(([part, value]) => (
              <Pair key={part} term={part} value={fixed(value, 2)} />
            ))}
          </dl>
          <a href={`/api/colors/proof/report?${asked}`} target="_blank" rel="noreferrer">
            Report to print
          </a>
        </div>
      </div>
      <h3>Largest errors</h3>
      <Largest found={found} />
      <p className="soft">
        What is allowed is as ISO 12647-7:2016, clause 4, has it, until it is set otherwise. Evenness,
        permanence, gloss and rub resistance have to be seen on prints.
      </p>
    </div>
  );
}

function Pair({ term, value }: { term: string; value: string }) {
  return (
    <div>
      <dt>{term}</dt>
      <dd className="number">{value}</dd>
    </div>
  );
}

function Requirements({
  found,
  onAllow,
}: {
  found: Proof;
  onAllow: (what: Tolerance, most: number) => void;
}) {
  return (
    <table className="table narrow" aria-label="Requirements of the proof">
      <thead>
        <tr>
          <th>Requirement</th>
          <th className="number">Found</th>
          <th className="number">Allowed</th>
          <th>Unit</th>
          <th>It is</th>
        </tr>
      </thead>
      <tbody>
        {found.checks.map((each) => {
          const state = each.held === null ? "untold" : each.held ? "held" : "broken";
          return (
            <tr key={each.tolerance} data-state={state}>
              <td>{each.what}</td>
              <td className="number">{each.figure === null ? "" : fixed(each.figure, 2)}</td>
              <td className="number">
                <NumberField
                  label={`Allowed: ${each.what}, ${each.unit}`}
                  className="field short"
                  value={each.allowed}
                  min={0}
                  max={100}
                  onKeep={(most) => most !== null && onAllow(each.tolerance as Tolerance, most)}
                />
              </td>
              <td>{each.unit}</td>
              <td className={state === "broken" ? "strong" : undefined}>{STATES[state]}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function Largest({ found }: { found: Proof }) {
  return (
    <table className="table narrow" aria-label="Largest errors of the proof">
      <thead>
        <tr>
          <th>Inks %</th>
          <th className="number">Press L*a*b*</th>
          <th className="number">Proof L*a*b*</th>
          <th className="number">ΔE00</th>
        </tr>
      </thead>
      <tbody>
        {found.worst.map((each) => (
          <tr key={each.color}>
            <td>{each.values.map((value) => fixed(value * 100, 0)).join(" ")}</td>
            <td className="number">{lab(each.press_lab)}</td>
            <td className="number">{lab(each.proof_lab)}</td>
            <td className="number strong">{fixed(each.delta_e, 2)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
