import "./DriftPage.css";
import Button from "@mui/material/Button";
import { useRef, useState } from "react";
import type { Condition } from "../../api/client";
import { type ControlStrip, type Tolerances, useStripActions, useStrips } from "../../api/conditionQueries";
import { fixed, moment } from "../../shared/figures";
import { inkName } from "../../shared/inks";
import { MEASUREMENT_FILES } from "../../shared/measurementFiles";
import { LinePlot } from "../../shared/plots/LinePlot";
import { FileInput } from "../../shared/ui/FileInput";
import { SliderSetting } from "../../shared/ui/SliderSetting";
import { ConditionHead } from "./ConditionHead";
import { useOneCondition } from "./useOneCondition";

const NAMES: [keyof Tolerances, string][] = [
  ["paper", "Paper"],
  ["solids", "Solids"],
  ["mean", "Mean"],
  ["worst", "Any patch"],
];
const DAY_MS = 86_400_000;

/** A condition over time: its control strips against their aims. */
export function DriftPage() {
  const { condition, instead } = useOneCondition();
  return condition ? <Drift condition={condition} /> : instead;
}

function Drift({ condition }: { condition: Condition }) {
  const strips = useStrips(condition.slug);
  const actions = useStripActions(condition.slug);
  const input = useRef<HTMLInputElement>(null);
  const limits = condition.tolerances;
  const readings = strips.data ?? [];
  return (
    <main className="room">
      <ConditionHead condition={condition}>
        {condition.has_device && (
          <Button
            variant="contained"
            disabled={actions.measure.isPending}
            onClick={() => actions.measure.mutate()}
          >
            {actions.measure.isPending ? "Measuring a strip" : "Print and measure a strip"}
          </Button>
        )}
        <Button onClick={() => input.current?.click()}>Load a measured strip</Button>
        <FileInput
          at={input}
          label="Measured strip"
          accept={MEASUREMENT_FILES}
          onFile={(file) => actions.load.mutate(file)}
        />
      </ConditionHead>
      {actions.error && (
        <p className="notice" role="alert">
          {actions.error.message}
        </p>
      )}
      {strips.error && <p className="notice">{strips.error.message}</p>}
      {strips.data?.length === 0 && (
        <section>
          <p>
            No strip has been measured yet. A strip has bare substrate, solids, quarter tones, overprints and
            grays; measured week by week it shows how far the press has wandered from its profile.
          </p>
          <ol>
            <li>
              Print it{condition.has_device ? " above, where its device is at hand, or elsewhere" : ""}:{" "}
              <a href={`/api/conditions/${condition.slug}/strip.txt`}>its ink values as CGATS</a>.
            </li>
            <li>Let it dry as jobs do, and measure each patch.</li>
            <li>
              Load what was measured; tolerances are set here, and whoever opens the condition is told of it.
            </li>
          </ol>
        </section>
      )}
      {readings.length > 0 && (
        <>
          {condition.last_strip && !condition.last_strip.within && (
            <p className="notice">Out of tolerance: {condition.last_strip.broken.join("; ")}.</p>
          )}
          <div className="drift">
            <Course readings={readings} limits={limits} />
            <section>
              <h2 className="minor">Tolerances, ΔE00</h2>
              {NAMES.map(([field, name]) => (
                <Tolerance
                  key={field}
                  name={name}
                  value={limits[field] ?? 0}
                  onRest={(value) =>
                    actions.setTolerances.mutate({
                      tolerances: { ...limits, [field]: value },
                      version: condition.version,
                    })
                  }
                />
              ))}
            </section>
          </div>
          <table className="table">
            <thead>
              <tr>
                <th>Measured</th>
                <th>From</th>
                <th className="number">Mean</th>
                <th className="number">Any patch</th>
                <th className="number">Paper</th>
                {condition.inks.map((ink) => (
                  <th key={ink} className="number">
                    Solid {inkName(ink)}
                  </th>
                ))}
                <th>
                  <span className="visually-hidden">Within tolerance</span>
                </th>
                <th>
                  <span className="visually-hidden">Remove</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {[...readings].reverse().map((strip) => (
                <tr key={strip.id}>
                  <td className="unbroken">{moment(strip.measured_at)}</td>
                  <td>{strip.file_name}</td>
                  <td className="number">{fixed(strip.drift.mean, 2)}</td>
                  <td className="number">{fixed(strip.drift.worst, 2)}</td>
                  <td className="number">{fixed(strip.drift.paper, 2)}</td>
                  {condition.inks.map((ink) => (
                    <td key={ink} className="number">
                      {strip.drift.solids[ink] === undefined ? "–" : fixed(strip.drift.solids[ink] ?? 0, 2)}
                    </td>
                  ))}
                  <td>{strip.drift.within ? "within" : <b>out</b>}</td>
                  <td>
                    <button
                      type="button"
                      className="quiet-button"
                      aria-label={`Remove ${strip.file_name}, ${moment(strip.measured_at)}`}
                      onClick={() => actions.forget.mutate(strip.id)}
                    >
                      Remove
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </main>
  );
}

/** One tolerance; it follows the hand and is kept where it comes to rest. */
function Tolerance(props: { name: string; value: number; onRest: (value: number) => void }) {
  const [moving, setMoving] = useState<number>();
  const value = moving ?? props.value;
  return (
    <SliderSetting
      label={props.name}
      value={value}
      min={0.5}
      max={12}
      step={0.5}
      text={fixed(value)}
      onMove={setMoving}
      onRest={(next) => {
        setMoving(undefined);
        props.onRest(next);
      }}
    />
  );
}

/** Mean and worst over time, with their tolerances as dashed lines; what is out is a filled point. */
function Course({ readings, limits }: { readings: ControlStrip[]; limits: Tolerances }) {
  const times = readings.map((strip) => new Date(strip.measured_at).getTime());
  const [first, last] = [Math.min(...times), Math.max(...times)];
  const range: [number, number] = last > first ? [first, last] : [first - DAY_MS, first + DAY_MS];
  const course = (name: string, of: (strip: ControlStrip) => number, limit: number, thin: boolean) => [
    {
      name: `${name}, tolerance`,
      color: "var(--soft)",
      dash: "4 3",
      thin: true,
      unnamed: true,
      points: range.map((at): [number, number] => [at, limit]),
    },
    {
      name,
      color: "var(--ink)",
      thin,
      hollow: (value: number) => value <= limit,
      points: readings.map((strip, at): [number, number] => [times[at] ?? 0, of(strip)]),
    },
  ];
  return (
    <LinePlot
      title="ΔE00 of control strips over time"
      note="dashed: tolerance; filled: out of it"
      x={{
        name: "measured on",
        range,
        ticks: [0, 1, 2, 3].map((part) => range[0] + ((range[1] - range[0]) * part) / 3),
        text: (at) => new Date(at).toLocaleDateString("sv-SE"),
      }}
      y={{
        name: "ΔE00",
        range: [0, Math.max(limits.worst ?? 6, ...readings.map((strip) => strip.drift.worst)) * 1.15],
      }}
      digits={2}
      height={260}
      dots
      lines={[
        ...course("any patch", (strip) => strip.drift.worst, limits.worst ?? 6, true),
        ...course("mean", (strip) => strip.drift.mean, limits.mean ?? 2.5, false),
      ]}
    />
  );
}
