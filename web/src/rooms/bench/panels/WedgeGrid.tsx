import "./WedgeGrid.css";
import Button from "@mui/material/Button";
import { type ClipboardEvent, useRef, useState } from "react";
import { FileInput } from "../../../shared/ui/FileInput";

const STEPS = 21;
const EMPTY = Array.from({ length: STEPS }, () => "");

interface Props {
  onMade: (text: string) => void;
  onPrint: () => void;
  printing: boolean;
}

/** A step wedge: its film to print, and the measured L* of its steps, black first, typed, pasted or from a file. */
export function WedgeGrid({ onMade, onPrint, printing }: Props) {
  const [steps, setSteps] = useState(EMPTY);
  const input = useRef<HTMLInputElement>(null);
  const filled = steps.filter((step) => step.trim());
  // Steps stand for even tones: one left out in the middle would move all that follow.
  const gap = steps.findIndex((step, at) => !step.trim() && steps.slice(at).some((each) => each.trim()));

  function pasted(event: ClipboardEvent, at: number) {
    const text = event.clipboardData.getData("text");
    // A comma is a decimal's own, unless a blank follows it or points are there.
    const values = text.split(text.includes(".") ? /[\s;,]+/ : /[\s;]+|,\s+/).filter(Boolean);
    if (values.length < 2) return;
    event.preventDefault();
    // A table with names of its fields is read as a file would be.
    if (/[a-z]/i.test(text)) return onMade(text);
    const next = [...steps.slice(0, at), ...values];
    setSteps([...next, ...steps.slice(next.length)]);
  }

  return (
    <>
      <div className="head-line">
        <span>L* of the wedge&rsquo;s steps, black first</span>
        <button
          type="button"
          className="quiet-button"
          disabled={filled.length === 0}
          onClick={() => setSteps(EMPTY)}
        >
          Clear
        </button>
      </div>
      <fieldset className="wedge" aria-label="L* of the wedge's steps, black first">
        {steps.map((step, at) => (
          <input
            // biome-ignore lint/suspicious/noArrayIndexKey: a step is where it stands
            key={at}
            className="field"
            inputMode="decimal"
            aria-label={`L* of step ${at + 1}`}
            value={step}
            onChange={(event) => setSteps(steps.map((each, i) => (i === at ? event.target.value : each)))}
            onPaste={(event) => pasted(event, at)}
          />
        ))}
      </fieldset>
      {gap >= 0 && <p className="soft">Step {gap + 1} is missing.</p>}
      <div className="answers">
        <Button disabled={printing} onClick={onPrint}>
          Film of the wedge
        </Button>
        <Button onClick={() => input.current?.click()}>Read a wedge</Button>
        <Button
          disabled={filled.length < 5 || gap >= 0}
          onClick={() => onMade(filled.map((step) => step.replace(",", ".")).join(" "))}
        >
          Table from the wedge
        </Button>
      </div>
      <FileInput
        at={input}
        label="Measured wedge as a file"
        accept=".txt,.cgats,.it8,.csv,.tsv"
        onFile={(file) => void file.text().then(onMade)}
      />
    </>
  );
}
