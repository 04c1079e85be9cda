import "./HueRing.css";
import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import type { HueMove } from "../../../api/client";
import { fixed } from "../../../shared/figures";

const [INNER, OUTER, HANDLE, MOST_BAR] = [66, 78, 90, 40];
const STEPS = 72;

interface Props {
  hues: HueMove[];
  /** The move whose settings are shown. */
  chosen: number;
  /** Share of the artwork's pixels in even steps of hue. */
  histogram: number[] | undefined;
  /** Hue under the pointer on the picture, in degrees. */
  pointed: number | undefined;
  onChoose: (index: number) => void;
  onAdd: (center_deg: number) => void;
  onMove: (hues: HueMove[]) => void;
  onRest: (hues: HueMove[]) => void;
}

const at = (deg: number, radius: number) => {
  const angle = (deg * Math.PI) / 180;
  return [Math.cos(angle) * radius, -Math.sin(angle) * radius] as const;
};
const point = (deg: number, radius: number) =>
  at(deg, radius)
    .map((value) => value.toFixed(2))
    .join(" ");
/** Along the circle, against the clock, as hue angles count. */
const arc = (from: number, to: number, radius: number) =>
  `${point(from, radius)}A${radius} ${radius} 0 ${to - from > 180 ? 1 : 0} 0 ${point(to, radius)}`;
const sector = (from: number, to: number, low: number, high: number) =>
  `M${arc(from, to, high)}L${point(to, low)}L${point(from, low)}Z`;

export const around = (deg: number) => ((Math.round(deg) % 360) + 360) % 360;

/** Hue ranges on a ring in L*C*h: pressed for a new one, their middles and ends dragged or moved by arrow keys. */
export function HueRing({ hues, chosen, histogram, pointed, onChoose, onAdd, onMove, onRest }: Props) {
  const ring = useRef<SVGSVGElement>(null);
  const drag = useRef<{ index: number; part: "center" | "width" }>(undefined);
  const latest = useRef(hues);
  latest.current = hues;

  const degOf = (event: PointerEvent) => {
    const box = ring.current?.getBoundingClientRect();
    if (!box) return 0;
    const [x, y] = [event.clientX - box.left - box.width / 2, event.clientY - box.top - box.height / 2];
    return around((Math.atan2(-y, x) * 180) / Math.PI);
  };
  const changed = (index: number, part: Partial<HueMove>) =>
    hues.map((move, each) => (each === index ? { ...move, ...part } : move));
  const widthTo = (move: HueMove, deg: number) => {
    const away = Math.abs(((deg - move.center_deg + 540) % 360) - 180);
    return Math.min(180, Math.max(10, Math.round(away * 2)));
  };

  function move(event: PointerEvent) {
    const held = drag.current;
    const now = held && hues[held.index];
    if (!held || !now) return;
    const deg = degOf(event);
    onMove(
      changed(held.index, held.part === "center" ? { center_deg: deg } : { width_deg: widthTo(now, deg) }),
    );
  }
  function up() {
    if (!drag.current) return;
    drag.current = undefined;
    onRest(latest.current);
  }
  const hold = (index: number, part: "center" | "width") => (event: PointerEvent) => {
    event.stopPropagation();
    ring.current?.setPointerCapture(event.pointerId);
    drag.current = { index, part };
    onChoose(index);
  };
  const keys = (index: number, part: "center" | "width") => (event: KeyboardEvent) => {
    const now = hues[index];
    const up = event.key === "ArrowUp" || event.key === "ArrowRight";
    if (!now || !(up || event.key === "ArrowDown" || event.key === "ArrowLeft")) return;
    event.preventDefault();
    const by = (up ? 1 : -1) * (event.shiftKey ? 10 : 1);
    onRest(
      changed(
        index,
        part === "center"
          ? { center_deg: around(now.center_deg + by) }
          : { width_deg: Math.min(180, Math.max(10, now.width_deg + by)) },
      ),
    );
  };
  const highest = Math.max(...(histogram ?? []), 1e-6);
  return (
    // biome-ignore lint/a11y/useSemanticElements: no fieldset is drawn inside a picture
    <svg
      ref={ring}
      className="hue-ring"
      viewBox="-104 -104 208 208"
      role="group"
      aria-label="Hue ranges on the ring of CIELAB hue angles"
      onPointerDown={(event) => hues.length < 12 && onAdd(degOf(event))}
      onPointerMove={move}
      onPointerUp={up}
    >
      {Array.from({ length: STEPS }, (_, step) => {
        const from = (step * 360) / STEPS;
        const share = histogram?.[step] ?? 0;
        const low = INNER - 2 - Math.sqrt(share / highest) * MOST_BAR;
        return (
          <g key={from}>
            <path
              d={sector(from, from + 360 / STEPS + 0.4, INNER, OUTER)}
              fill={`lch(65% 55 ${from + 2.5})`}
            />
            {share > 0 && (
              <path d={sector(from + 0.6, from + 4.4, low, INNER - 2)} className="share">
                <title>{`${from}° to ${from + 5}°: ${fixed(share * 100)} % of the artwork`}</title>
              </path>
            )}
          </g>
        );
      })}
      {[0, 90, 180, 270].map((deg) => (
        <text key={deg} x={at(deg, 14)[0]} y={at(deg, 14)[1] + 3} textAnchor="middle">
          {deg}°
        </text>
      ))}
      {pointed !== undefined && (
        <path d={`M${point(pointed, INNER - MOST_BAR)}L${point(pointed, OUTER + 3)}`} className="pointed" />
      )}
      {hues.map((each, index) => {
        const half = each.width_deg / 2;
        const name = `Range ${index + 1}`;
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: moves have no other name
          <g key={index} className={index === chosen ? "range chosen" : "range"}>
            <path d={`M${arc(each.center_deg - half, each.center_deg + half, HANDLE)}`} />
            {([-1, 1] as const).map((side) => (
              <circle
                key={side}
                cx={at(each.center_deg + side * half, HANDLE)[0]}
                cy={at(each.center_deg + side * half, HANDLE)[1]}
                r={5}
                className="end"
                tabIndex={side === 1 ? 0 : -1}
                role="slider"
                aria-label={`${name}, ${side === 1 ? "width" : "width, other end"}`}
                aria-valuemin={10}
                aria-valuemax={180}
                aria-valuenow={each.width_deg}
                aria-valuetext={`${fixed(each.width_deg, 0)}° wide`}
                onPointerDown={hold(index, "width")}
                onKeyDown={keys(index, "width")}
                onFocus={() => onChoose(index)}
              />
            ))}
            <circle
              cx={at(each.center_deg, HANDLE)[0]}
              cy={at(each.center_deg, HANDLE)[1]}
              r={7}
              className="middle"
              tabIndex={0}
              role="slider"
              aria-label={`${name}, middle`}
              aria-valuemin={0}
              aria-valuemax={359}
              aria-valuenow={each.center_deg}
              aria-valuetext={`${fixed(each.center_deg, 0)}°`}
              onPointerDown={hold(index, "center")}
              onKeyDown={keys(index, "center")}
              onFocus={() => onChoose(index)}
            />
          </g>
        );
      })}
    </svg>
  );
}
