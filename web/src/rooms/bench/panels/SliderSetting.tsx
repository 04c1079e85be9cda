import Slider from "@mui/material/Slider";

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

/** A setting as a slider with its figure: the picture follows the hand, the history takes the place of rest. */
export function SliderSetting({ label, value, min, max, step = 1, text, mark, onMove, onRest }: Props) {
  return (
    <div className="setting">
      <span>{label}</span>
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
      <span className="value">{text}</span>
    </div>
  );
}
