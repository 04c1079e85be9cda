import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import { SettingName } from "./SettingName";

interface Props<T extends string | number> {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
  bare?: boolean;
}

/** A few choices side by side, one of them taken. */
export function Choice<T extends string | number>({ label, value, options, onChange, bare }: Props<T>) {
  const group = (
    <ToggleButtonGroup
      exclusive
      aria-label={label}
      value={value}
      onChange={(_, next: T | null) => next !== null && onChange(next)}
    >
      {options.map(([each, name]) => (
        <ToggleButton key={each} value={each}>
          {name}
        </ToggleButton>
      ))}
    </ToggleButtonGroup>
  );
  if (bare) return group;
  return (
    <div className="setting wide">
      <SettingName name={label} />
      {group}
    </div>
  );
}
