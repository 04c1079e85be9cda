import "./FromNumbersPage.css";
import Button from "@mui/material/Button";
import { useQueryClient } from "@tanstack/react-query";
import { type ClipboardEvent, useDeferredValue, useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { type InkNumbers, useNumbersActions, useNumbersLook } from "../../api/conditionQueries";
import { useRuns } from "../../api/queries";
import { fixed } from "../../shared/figures";
import { isNumber, number } from "../../shared/typedNumber";
import { FileInput } from "../../shared/ui/FileInput";
import { NumberField } from "../../shared/ui/NumberField";
import { RunLine } from "../../shared/ui/RunLine";
import { SliderSetting } from "../../shared/ui/SliderSetting";
import { SlicePlot } from "../gamut/SlicePlot";
import {
  EMPTY,
  emptyLine,
  isCurve,
  isOverprint,
  keyOf,
  linesOf,
  numbersOf,
  pastedInto,
  type TypedLine,
  unfinished,
} from "./typedNumbers";

const AT_FIRST: TypedLine[] = ["", "C", "M", "Y", "K"].map((inks, id) => ({
  id,
  inks,
  values: EMPTY,
  gain: "",
}));

/** A condition from what a supplier gives: typed or pasted, its overprints predicted, its gamut beside it. */
export function FromNumbersPage() {
  const [name, setName] = useState("New condition from numbers");
  const [lines, setLines] = useState(AT_FIRST);
  const [spread, setSpread] = useState(1.7);
  const [total, setTotal] = useState("");
  const [runId, setRunId] = useState<number>();
  const [level, setLevel] = useState(50);
  const input = useRef<HTMLInputElement>(null);
  const wanted = numbersOf(name, lines, spread);
  const look = useNumbersLook(useDeferredValue(wanted));
  const { make, read } = useNumbersActions();
  const run = useRuns().data?.find((each) => each.id === runId);
  const queries = useQueryClient();
  const done = run?.state === "done";
  useEffect(() => {
    if (done) void queries.invalidateQueries({ queryKey: ["conditions"] });
  }, [done, queries]);
  const shown = wanted ? look.data : undefined;
  const swatchOf = (inks: string) => {
    const key = isOverprint(inks) && !inks.includes("+") ? [...keyOf(inks)].join("+") : keyOf(inks);
    const same = (other: string) => other.split("+").sort().join() === key.split("+").sort().join();
    return shown?.solids.find((each) => same(each.inks))?.swatch ?? "transparent";
  };
  const changed = (at: number, part: Partial<TypedLine>) =>
    setLines(lines.map((line, each) => (each === at ? { ...line, ...part } : line)));
  const valued = (at: number, axis: number, text: string) => {
    const values = [...(lines[at]?.values ?? EMPTY)] as [string, string, string];
    values[axis] = text;
    changed(at, { values });
  };
  const add = (inks: string) => setLines([...lines, emptyLine(lines, inks)]);
  const notCounted = unfinished(lines);
  const totalWrong = total.trim() !== "" && !isNumber(total);

  function pasted(event: ClipboardEvent, at: number, axis: number) {
    const next = pastedInto(lines, at, axis, event.clipboardData.getData("text"));
    if (!next) return;
    event.preventDefault();
    setLines(next);
  }

  function fill(numbers: InkNumbers) {
    setName(numbers.name);
    setSpread(numbers.yule_nielsen_n);
    setLines(linesOf(numbers));
  }

  const exported = wanted && `data:application/json,${encodeURIComponent(JSON.stringify(wanted, null, 2))}`;
  return (
    <main className="room from-numbers">
      <header>
        <div>
          <h1 tabIndex={-1}>Condition from numbers</h1>
          <p className="soft">
            What a supplier gives: L*a*b* (D50, 2°, absolute) of paper, solids and overprints, and dot gain at
            the half tone or a tone curve. What is missing is predicted, and marked.{" "}
            <Link to="/conditions">All conditions</Link>
          </p>
        </div>
        <div className="answers">
          <Button onClick={() => input.current?.click()}>Import numbers</Button>
          {exported && (
            <a href={exported} download={`${name}.json`}>
              Export
            </a>
          )}
          <FileInput
            at={input}
            label="File of numbers"
            accept=".json"
            onFile={(file) => read.mutate(file, { onSuccess: fill })}
          />
        </div>
      </header>
      {read.error && (
        <p className="notice" role="alert">
          {read.error.message}
        </p>
      )}
      <div className="parts">
        <section>
          <label className="name">
            <span>Name</span>
            <input className="field" value={name} onChange={(event) => setName(event.target.value)} />
          </label>
          <table className="table narrow" aria-label="Paper, solids and overprints">
            <thead>
              <tr>
                <th>
                  <span className="visually-hidden">Color</span>
                </th>
                <th>Inks</th>
                <th>L*</th>
                <th>a*</th>
                <th>b*</th>
                <th>Gain at 50 %, or dot:tone</th>
                <th>
                  <span className="visually-hidden">Remove</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {lines.map((line, at) => {
                const called = line.inks ? line.inks : "paper";
                return (
                  <tr key={line.id}>
                    <td>
                      <span className="swatch wide" style={{ background: swatchOf(line.inks) }} />
                    </td>
                    <td>
                      {at === 0 ? (
                        <b>Paper</b>
                      ) : (
                        <input
                          className="field ink"
                          aria-label={`Inks of line ${at}`}
                          placeholder="C, O, C+M"
                          value={line.inks}
                          onChange={(event) => changed(at, { inks: event.target.value })}
                        />
                      )}
                    </td>
                    {[0, 1, 2].map((axis) => (
                      <td key={axis}>
                        <input
                          className="field"
                          inputMode="decimal"
                          aria-label={`${["L*", "a*", "b*"][axis]} of ${called}`}
                          aria-invalid={
                            line.values[axis]?.trim() && !isNumber(line.values[axis]) ? true : undefined
                          }
                          value={line.values[axis]}
                          onChange={(event) => valued(at, axis, event.target.value)}
                          onPaste={(event) => pasted(event, at, axis)}
                        />
                      </td>
                    ))}
                    <td>
                      {at > 0 && !isOverprint(line.inks) && (
                        <input
                          className="field gain"
                          data-curve={isCurve(line.gain)}
                          placeholder="15"
                          title="One figure at 50 %, or a tone curve as dot:tone pairs: 25:38 50:67 75:88"
                          aria-label={`Gain of ${called}, percent points`}
                          value={line.gain}
                          onChange={(event) => changed(at, { gain: event.target.value })}
                          onPaste={(event) => pasted(event, at, 3)}
                        />
                      )}
                    </td>
                    <td>
                      {at > 0 && (
                        <button
                          type="button"
                          className="quiet-button soft"
                          aria-label={`Remove ${called}`}
                          onClick={() => setLines(lines.filter((_, each) => each !== at))}
                        >
                          Remove
                        </button>
                      )}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
          {notCounted.length > 0 && (
            <p className="soft" role="status">
              Not counted yet: {notCounted.map((line) => line.inks || "paper").join(", ")}. A color needs
              three numbers.
            </p>
          )}
          <div className="answers">
            <Button onClick={() => add("")}>Add an ink</Button>
            <Button onClick={() => add(shown?.missing[0] ?? "C+M")}>Add an overprint</Button>
          </div>
          <span>
            Light spread of the stock (Yule-Nielsen n){" "}
            <NumberField
              label="Light spread of the stock, Yule-Nielsen n"
              className="field short"
              value={spread}
              min={1}
              max={4}
              onKeep={(n) => setSpread(n ?? spread)}
            />
          </span>
          <label>
            Total ink, %{" "}
            <input
              className="field short"
              inputMode="decimal"
              placeholder="as dark as is worth it"
              aria-invalid={totalWrong || undefined}
              value={total}
              onChange={(event) => setTotal(event.target.value)}
            />
          </label>
          <div className="answers">
            <Button
              variant="contained"
              disabled={!shown || !!look.error || totalWrong || make.isPending}
              onClick={() =>
                wanted &&
                make.mutate(
                  { numbers: wanted, total_ink_percent: isNumber(total) ? number(total) : null },
                  { onSuccess: (made) => setRunId(made.run_id) },
                )
              }
            >
              Make the condition
            </Button>
          </div>
          {make.error && (
            <p className="notice" role="alert">
              {make.error.message}
            </p>
          )}
          {run && <RunLine run={run} />}
          {done && run?.condition_slug && (
            <p role="status">
              It is a draft, marked as from numbers.{" "}
              <Link to={`/conditions/${run.condition_slug}`}>See it</Link>
            </p>
          )}
        </section>
        <section aria-label="What the numbers come to">
          {look.error && wanted && (
            <p className="notice" role="alert">
              {look.error.message}
            </p>
          )}
          {!wanted && (
            <p className="soft">
              Give the paper and one solid: what they overprint to stands here then, and of three inks and
              more the gamut.
            </p>
          )}
          {wanted && look.isLoading && (
            <p className="soft" role="status">
              Computing what they overprint to
            </p>
          )}
          {shown && (
            <>
              {!shown.gamut && <p className="soft">A gamut is drawn for three to six inks.</p>}
              {shown.gamut && (
                <>
                  <SlicePlot gamuts={[shown.gamut]} cloud={undefined} level={level} />
                  <SliderSetting
                    label="At L*"
                    value={level}
                    min={5}
                    max={95}
                    text={fixed(level, 0)}
                    onMove={setLevel}
                    onRest={() => undefined}
                  />
                  <p>
                    Gamut without an ink limit: <b>{fixed(shown.gamut.volume / 1000, 0)}</b> thousand ΔE³.
                  </p>
                </>
              )}
              <table className="table narrow" aria-label="Overprints">
                <tbody>
                  {shown.solids
                    .filter((each) => each.inks.includes("+"))
                    .map((each) => (
                      <tr key={each.inks}>
                        <td>
                          <span className="swatch wide" style={{ background: each.swatch }} /> {each.inks}
                        </td>
                        <td className="number">{each.lab.map((value) => fixed(value)).join("  ")}</td>
                        <td className={each.given ? "strong" : "soft"}>
                          {each.given ? "given" : "predicted"}
                        </td>
                      </tr>
                    ))}
                </tbody>
              </table>
            </>
          )}
        </section>
      </div>
    </main>
  );
}
