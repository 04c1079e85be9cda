import "./OutPanel.css";
import Button from "@mui/material/Button";
import { useState } from "react";
import { type ColorList, type Step, useRouteActions } from "../../api/colorQueries";
import { NumberField } from "../../shared/ui/NumberField";
import { type JudgedProof, ProofingSystem, ProofVerdict } from "./ProofingSystem";

/** ICC versions and bits that a written route can have. */
const FORMS = [
  ["4 16", "ICC v4, 16 bit"],
  ["4 8", "ICC v4, 8 bit"],
  ["2 16", "ICC v2, 16 bit"],
  ["2 8", "ICC v2, 8 bit"],
] as const;

interface Props {
  list: ColorList | undefined;
  steps: Step[];
  names: [string, string][];
  onClose: () => void;
}

/** What goes out of the room: the route as a profile, the list as a file, a proofing system judged. */
export function OutPanel({ list, steps, names, onClose }: Props) {
  const { write } = useRouteActions();
  const [proof, setProof] = useState<JudgedProof>();
  const [name, setName] = useState("Route");
  const [form, setForm] = useState("4 16");
  const [points, setPoints] = useState<number | null>(null);
  const [version, bits] = form.split(" ").map(Number);
  const asked = { version: version as 2 | 4, bits: bits as 8 | 16, points: points ?? 0 };
  const lacks = !name.trim()
    ? "The profile needs a name."
    : !steps.length
      ? "The route has no step yet."
      : steps.length < 2
        ? "A link goes from device to device: give the route a second step. A look needs but one."
        : "A link goes from device to device, a look from Lab to Lab.";
  const first = steps.find((each) => !each.bypassed)?.profile ?? "";
  const isLab = list?.channels[0] === "L*";
  const devices = names.filter(([choice]) => choice.length === 64);
  if (proof) {
    return (
      <section className="colors-out whole" aria-label="A proofing system judged">
        <div className="head-line">
          <h2>A proofing system</h2>
          <span className="answers">
            <button type="button" className="quiet-button" onClick={() => setProof(undefined)}>
              Judge another
            </button>
            <button type="button" className="quiet-button" onClick={onClose}>
              Close
            </button>
          </span>
        </div>
        <ProofVerdict {...proof} onChange={setProof} />
      </section>
    );
  }
  return (
    <section className="colors-out" aria-label="Write and judge">
      <div className="head-line">
        <h2>Write and judge</h2>
        <button type="button" className="quiet-button" onClick={onClose}>
          Close
        </button>
      </div>
      <div className="parts">
        <div>
          <h3>The route as a profile</h3>
          <input
            className="field"
            aria-label="Name of the profile"
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
          <label>
            Its table{" "}
            <select className="field" value={form} onChange={(event) => setForm(event.target.value)}>
              {FORMS.map(([value, text]) => (
                <option key={value} value={value}>
                  {text}
                </option>
              ))}
            </select>
          </label>
          <span>
            Points a channel{" "}
            <NumberField
              label="Points a channel"
              className="field short"
              value={points}
              min={2}
              max={100}
              whole
              optional
              placeholder="as fits"
              onKeep={setPoints}
            />
          </span>
          <div className="answers">
            <Button
              disabled={write.isPending || steps.length < 2 || !name.trim()}
              onClick={() => write.mutate({ kind: "link", name, steps, ...asked })}
            >
              Write a device link
            </Button>
            <Button
              disabled={write.isPending || steps.length < 1 || !name.trim()}
              onClick={() => write.mutate({ kind: "abstract", name, steps, ...asked })}
            >
              Write its look
            </Button>
          </div>
          <p className="soft" role="status">
            {write.isPending
              ? "Computing the table"
              : write.data
                ? `Written. Read again by LittleCMS, ΔE00 to the route: ${write.data}.`
                : lacks}
          </p>
          {write.error && (
            <p className="notice" role="alert">
              {write.error.message}
            </p>
          )}
        </div>
        <div>
          <h3>The list as a file</h3>
          {list && (
            <div className="run-links">
              {(
                [
                  ["cgats", "CGATS"],
                  ["csv", "CSV"],
                  ["cxf", "CxF"],
                  ["icc", "ICC named colors"],
                ] as const
              ).map(([kind, text]) => (
                <a
                  key={kind}
                  href={`/api/colors/lists/${list.id}/file?kind=${kind}${isLab ? "" : `&profile=${first}`}`}
                >
                  {text}
                </a>
              ))}
            </div>
          )}
          {!isLab && <p className="soft">Its Lab is what the first step gives its numbers.</p>}
        </div>
        <div>
          <h3>A proofing system</h3>
          <ProofingSystem steps={steps} devices={devices} onFound={setProof} />
        </div>
      </div>
    </section>
  );
}
