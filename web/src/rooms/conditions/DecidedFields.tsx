import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import { useRef, useState } from "react";
import type { Condition } from "../../api/client";
import { type ConditionChange, useChangeCondition, useMedia } from "../../api/conditionQueries";
import { fixed } from "../../shared/figures";
import { drivenByRgb } from "../../shared/inks";
import { NumberField } from "../../shared/ui/NumberField";
import { SettingName } from "../../shared/ui/SettingName";

/** What people decide about a condition: name, process, notes, medium. A change is kept on leaving the field. */
export function DecidedFields({ condition }: { condition: Condition }) {
  const change = useChangeCondition(condition);
  const media = useMedia();
  const [open, setOpen] = useState(false);
  const field = (name: "name" | "process" | "notes", label: string) => (
    <DecidedText
      label={label}
      decided={condition[name]}
      keep={(typed) => change.mutateAsync({ [name]: typed })}
    />
  );
  return (
    <>
      <div className="setting wide">
        <SettingName name="Medium" />
        <Select
          size="small"
          value={condition.medium?.id ?? 0}
          inputProps={{ "aria-label": "Medium" }}
          onChange={(event) => change.mutate({ medium_id: Number(event.target.value) })}
        >
          <MenuItem value={0}>None named</MenuItem>
          {media.data?.map((medium) => (
            <MenuItem key={medium.id} value={medium.id}>
              {medium.name}, {fixed(medium.cost_per_m2, 2)} {medium.currency}/m²
            </MenuItem>
          ))}
        </Select>
      </div>
      {!drivenByRgb(condition.inks) && <SmallestDot condition={condition} change={change.mutateAsync} />}
      <ModeFields condition={condition} change={change.mutateAsync} />
      <button type="button" className="quiet-button" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Hide name, process and notes" : "Name, process and notes"}
      </button>
      {open && (
        <>
          {field("name", "Name")}
          {field("process", "Process")}
          {field("notes", "Notes")}
        </>
      )}
      {change.error && <p className="notice">{change.error.message}</p>}
    </>
  );
}

interface ChangeProps {
  condition: Condition;
  change: (changed: ConditionChange) => Promise<unknown>;
}

/** For fields that wait for nothing: what could not be kept is said below them. */
const decide = (change: ChangeProps["change"], changed: ConditionChange) => {
  change(changed).catch(() => undefined);
};

/** The minimum dot: what recipes for this condition start from on every plate. */
function SmallestDot({ condition, change }: ChangeProps) {
  const held = condition.smallest_dot_percent;
  return (
    <>
      <div className="setting wide">
        <SettingName name="Minimum dot, %" />
        <NumberField
          label="Minimum dot, %"
          value={held}
          min={0}
          max={20}
          onKeep={(percent) => decide(change, { smallest_dot_percent: percent ?? 0 })}
        />
      </div>
      {held > 0 && (
        <div className="setting wide">
          <SettingName name="Dots under it" />
          <Select
            size="small"
            value={condition.smallest_dot}
            inputProps={{ "aria-label": "Dots under the minimum" }}
            onChange={(event) => decide(change, { smallest_dot: event.target.value })}
          >
            <MenuItem value="raise">raised to it</MenuItem>
            <MenuItem value="cut">cut</MenuItem>
          </Select>
        </div>
      )}
    </>
  );
}

const MODE_TEXTS = [
  ["name", "Mode"],
  ["resolution", "Resolution"],
  ["quality", "Passes and quality"],
] as const;
const MODE_FIGURES = [
  ["feed_percent", "Feed, %", 90, 110],
  ["heat_celsius", "Heat, °C", 0, 250],
  ["carriage_mm", "Carriage height, mm", 0, 100],
] as const;

/** How the printer is set for this condition: what no profile says. */
function ModeFields({ condition, change }: ChangeProps) {
  const [open, setOpen] = useState(false);
  const { mode, mode_in_words: said } = condition;
  // What was typed and is not kept yet goes along with the next field: a mode is sent whole.
  const unkept = useRef<Partial<typeof mode>>({});
  const kept = async (part: Partial<typeof mode>) => {
    unkept.current = { ...unkept.current, ...part };
    try {
      await change({ mode: { ...mode, ...unkept.current } });
    } finally {
      const still = Object.entries(unkept.current).filter(
        ([name, value]) => !(name in part) || part[name as keyof typeof part] !== value,
      );
      unkept.current = Object.fromEntries(still);
    }
  };
  return (
    <>
      <button type="button" className="quiet-button" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Hide the mode of the printer" : said ? `Mode: ${said}` : "Mode of the printer"}
      </button>
      {open && (
        <>
          {MODE_TEXTS.map(([part, label]) => (
            <DecidedText
              key={part}
              label={label}
              decided={mode[part]}
              keep={(text) => kept({ [part]: text.trim() })}
            />
          ))}
          {MODE_FIGURES.map(([part, label, min, max]) => (
            <div key={part} className="setting wide">
              <SettingName name={label} />
              <NumberField
                label={label}
                value={mode[part]}
                min={min}
                max={max}
                optional
                placeholder="not said"
                onKeep={(value) => void kept({ [part]: value }).catch(() => undefined)}
              />
            </div>
          ))}
        </>
      )}
    </>
  );
}

interface TextProps {
  label: string;
  decided: string;
  keep: (typed: string) => Promise<unknown>;
}

/** A text that is kept on leaving the field; what could not be kept stays typed, what others decide shows at once. */
function DecidedText({ label, decided, keep }: TextProps) {
  const [typed, setTyped] = useState<string>();
  const leave = async () => {
    if (typed === undefined || typed === decided) return setTyped(undefined);
    try {
      await keep(typed);
    } catch {
      return; // The cause is said below the fields.
    }
    setTyped((now) => (now === typed ? undefined : now));
  };
  return (
    <div className="setting wide">
      <SettingName name={label} />
      <input
        className="plain-input"
        aria-label={label}
        value={typed ?? decided}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={leave}
      />
    </div>
  );
}
