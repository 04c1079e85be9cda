import Button from "@mui/material/Button";
import { useRef, useState } from "react";
import type { Condition } from "../../api/client";
import { type Strip, type Tolerances, useStripActions, useStrips } from "../../api/conditionQueries";
import { fixed, moment } from "../../shared/figures";
import { inkName } from "../../shared/inks";
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
const WIDTH = 760;
const HEIGHT = 220;

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
          accept=".txt,.cgats,.it8,.cxf,.xml"
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
        <p>No strip has been measured yet. A strip has bare substrate, solids, tints and overprints.</p>
      )}
      {readings.length > 0 && (
        <>
          {condition.last_strip && !condition.last_strip.within && (
            <p className="notice">Out of tolerance: {condition.last_strip.broken.join("; ")}.</p>
          )}
          <div className="drift">
            <Course readings={readings} limits={limits} />
            <section>
              <h3>Tolerances, ΔE00</h3>
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
                <th />
                <th />
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
                      onClick={() =>
                        confirm(`Remove the reading '${strip.file_name}'?`) && actions.forget.mutate(strip.id)
                      }
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

/** Mean and worst over time, with their tolerances as dashed lines. */
function Course({ readings, limits }: { readings: Strip[]; limits: Tolerances }) {
  const times = readings.map((strip) => new Date(strip.measured_at).getTime());
  const first = Math.min(...times);
  const span = Math.max(Math.max(...times) - first, 1);
  const top = Math.max(limits.worst ?? 6, ...readings.map((strip) => strip.drift.worst)) * 1.15;
  const px = (at: number) => 30 + ((at - first) / span) * (WIDTH - 140);
  const py = (value: number) => HEIGHT - (value / top) * HEIGHT;
  const lines: [string, (strip: Strip) => number, number, number][] = [
    ["any patch", (strip) => strip.drift.worst, limits.worst ?? 6, 1.2],
    ["mean", (strip) => strip.drift.mean, limits.mean ?? 2.5, 2.2],
  ];
  return (
    <figure className="course">
      <figcaption className="caption">
        <span>ΔE00 of control strips over time</span>
        <span>dashed: tolerance</span>
      </figcaption>
      <svg viewBox={`0 -8 ${WIDTH} ${HEIGHT + 30}`} role="img" aria-label="ΔE00 of control strips over time">
        <path d={`M30 0V${HEIGHT}H${WIDTH - 104}`} fill="none" stroke="var(--ink)" />
        {lines.map(([name, of, limit, width]) => (
          <g key={name}>
            <path
              d={`M30 ${py(limit)}H${WIDTH - 104}`}
              stroke="var(--soft)"
              strokeDasharray="4 3"
              strokeWidth={width * 0.7}
            />
            <text x="24" y={py(limit) + 4} fontSize="11" textAnchor="end" fill="var(--soft)">
              {fixed(limit)}
            </text>
            <path
              d={`M${readings.map((strip, at) => `${px(times[at] ?? 0).toFixed(1)} ${py(of(strip)).toFixed(1)}`).join("L")}`}
              fill="none"
              stroke="var(--ink)"
              strokeWidth={width}
            />
            {readings.map((strip, at) => (
              <rect
                key={strip.id}
                x={px(times[at] ?? 0) - 4}
                y={py(of(strip)) - 4}
                width="8"
                height="8"
                fill={of(strip) > limit ? "var(--ink)" : "var(--stone)"}
                stroke="var(--ink)"
              />
            ))}
            <text
              x={WIDTH - 98}
              y={py(of(readings.at(-1) as Strip)) + 4}
              fontSize="12"
              fontWeight="600"
              fill="var(--ink)"
            >
              {name} {fixed(of(readings.at(-1) as Strip))}
            </text>
          </g>
        ))}
        {[0, readings.length - 1].map((at) => (
          <text
            key={at}
            x={px(times[at] ?? 0)}
            y={HEIGHT + 17}
            fontSize="11"
            textAnchor={at === 0 ? "start" : "end"}
            fill="var(--soft)"
          >
            {new Date(times[at] ?? 0).toLocaleDateString("sv-SE")}
          </text>
        ))}
      </svg>
    </figure>
  );
}
