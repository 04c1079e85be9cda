import "./SliderSetting.css";
import Slider from "@mui/material/Slider";
import { useEffect, useRef, useState } from "react";
import { figureOf } from "../typedNumber";
import { SettingName } from "./SettingName";

interface Props {
  label: string;
  value: number;
  min: number;
  max: number;
  step?: number;
  text: string;
  mark?: number;
  onMove: (value: number) => void;
  onRest: (value: number) => void;
}

/**
 * A setting as a slider with its figure: the picture follows the hand, the history takes the place of rest.
 * A click on the figure takes an exact number instead.
 */
export function SliderSetting({ label, value, min, max, step = 1, text, mark, onMove, onRest }: Props) {
  const [typed, setTyped] = useState<string>();
  const [refused, setRefused] = useState<string>();

  // After Enter or Escape the focus stands on the figure again, from where Tab and the slider are near.
  const figure = useRef<HTMLButtonElement>(null);
  const returns = useRef(false);
  useEffect(() => {
    if (typed !== undefined || !returns.current) return;
    returns.current = false;
    figure.current?.focus();
  }, [typed]);

  /** Whatever is no figure for it stays typed, with a word about it. */
  function take() {
    const wanted = figureOf(typed ?? "", { min, max });
    if (typeof wanted !== "number") return setRefused(wanted ?? undefined);
    leave();
    onMove(wanted);
    onRest(wanted);
  }

  function leave() {
    setTyped(undefined);
    setRefused(undefined);
  }

  return (
    <div className="setting">
      <SettingName name={label} />
      <Slider
        aria-label={label}
        value={value}
        min={min}
        max={max}
        step={step}
        marks={mark === undefined ? undefined : [{ value: mark }]}
        getAriaValueText={() => text}
        onChange={(_, next) => onMove(next as number)}
        onChangeCommitted={(_, next) => onRest(next as number)}
      />
      {typed === undefined ? (
        <button
          type="button"
          className="value"
          ref={figure}
          aria-label={`${label} ${text}, type a number`}
          title={`Type a number, ${min} to ${max}`}
          onClick={() => setTyped(String(value))}
        >
          {text}
        </button>
      ) : (
        <input
          className="value"
          aria-label={`${label}, exact`}
          aria-invalid={refused !== undefined}
          inputMode="decimal"
          ref={(input) => input?.focus()}
          value={typed}
          onFocus={(event) => event.target.select()}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={take}
          onKeyDown={(event) => {
            returns.current = event.key === "Enter" || event.key === "Escape";
            // The same press would go on to the figure that has the focus next.
            if (returns.current) event.preventDefault();
            if (event.key === "Enter") take();
            if (event.key === "Escape") leave();
          }}
        />
      )}
      {refused && (
        <span className="refused" role="alert">
          {refused}{" "}
          <button type="button" className="quiet-button" onMouseDown={leave} onClick={leave}>
            Cancel
          </button>
        </span>
      )}
    </div>
  );
}
