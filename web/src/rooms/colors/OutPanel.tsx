import Button from "@mui/material/Button";
import { useState } from "react";
import { type ColorList, type Step, useRouteActions } from "../../api/colorQueries";
import { fixed, lab, percent } from "../../shared/figures";

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
  const { write, proof } = useRouteActions();
  const [name, setName] = useState("Route");
  const [press, setPress] = useState(steps.find((each) => each.profile.length === 64)?.profile ?? "");
  const [printer, setPrinter] = useState(steps.findLast((each) => each.profile.length === 64)?.profile ?? "");
  const [form, setForm] = useState("4 16");
  const [version, bits] = form.split(" ").map(Number);
  const asked = { version: version as 2 | 4, bits: bits as 8 | 16 };
  const first = steps.find((each) => !each.bypassed)?.profile ?? "";
  const isLab = list?.channels[0] === "L*";
  const devices = names.filter(([choice]) => choice.length === 64);
  const found = proof.data;
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
          <div className="answers">
            <Button
              disabled={write.isPending || steps.length < 2 || !name.trim()}
              onClick={() => write.mutate({ kind: "link", name, steps, points: 0, ...asked })}
            >
              Write a device link
            </Button>
            <Button
              disabled={write.isPending || steps.length < 1 || !name.trim()}
              onClick={() => write.mutate({ kind: "abstract", name, steps, points: 0, ...asked })}
            >
              Write its look
            </Button>
          </div>
          <p className="soft" role="status">
            {write.isPending
              ? "Computing the table"
              : write.data
                ? `Written. Read again by LittleCMS, ΔE00 to the route: ${write.data}.`
                : "A link goes from device to device, a look from Lab to Lab."}
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
          <label>
            Press{" "}
            <select className="field" value={press} onChange={(event) => setPress(event.target.value)}>
              <option value="">choose a profile</option>
              {devices.map(([choice, text]) => (
                <option key={choice} value={choice}>
                  {text}
                </option>
              ))}
            </select>
          </label>
          <label>
            Proofing printer{" "}
            <select className="field" value={printer} onChange={(event) => setPrinter(event.target.value)}>
              <option value="">choose a profile</option>
              {devices.map(([choice, text]) => (
                <option key={choice} value={choice}>
                  {text}
                </option>
              ))}
            </select>
          </label>
          <Button
            disabled={!press || !printer || proof.isPending}
            onClick={() => proof.mutate({ press, printer, side: 9 })}
          >
            Judge it over a grid
          </Button>
          {proof.error && (
            <p className="notice" role="alert">
              {proof.error.message}
            </p>
          )}
        </div>
      </div>
      {found && (
        <div role="status">
          <p>
            <span className="strong">
              {found.press}, proofed on {found.printer}
            </span>
            : ICC-absolute over {found.colors.toLocaleString("en")} colors, ΔE00 mean {fixed(found.mean, 2)},
            95 % below {fixed(found.p95, 2)}, 99 % below {fixed(found.p99, 2)}, largest{" "}
            {fixed(found.largest, 2)}; {percent(found.over_three_percent, 1)} above 3.{" "}
            {Object.entries(found.apart)
              .map(([part, value]) => `${part[0]?.toUpperCase()}${part.slice(1)} ${fixed(value, 2)}`)
              .join(", ")}
            .
          </p>
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
        </div>
      )}
    </section>
  );
}
