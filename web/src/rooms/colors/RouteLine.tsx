import "./RouteLine.css";
import type { Step, Travelled } from "../../api/colorQueries";
import { useAdjustments } from "../../api/houseQueries";
import { counted } from "../../shared/figures";
import { RegisterMark } from "../../shared/ui/RegisterMark";

const INTENTS = ["perceptual", "relative", "saturation", "absolute"] as const;

/** What stands for an adjustment among the choices of a step; its number behind it where it is one of the house. */
const ADJUSTED = "adjust:";

interface Props {
  steps: Step[];
  names: [string, string][];
  /** Profiles of printing conditions that separate by themselves. */
  separated: ReadonlySet<string>;
  listName: string;
  count: number | undefined;
  travelled: Travelled | undefined;
  onChange: (steps: Step[]) => void;
}

/** The steps of a route in a line; each is changed where it stands. */
export function RouteLine({ steps, names, separated, listName, count, travelled, onChange }: Props) {
  const adjustments = useAdjustments().list;
  const changed = (at: number, part: Partial<Step>) =>
    onChange(steps.map((step, each) => (each === at ? { ...step, ...part } : step)));
  const moved = (at: number, by: number) => {
    const next = [...steps];
    const [step] = next.splice(at, 1);
    if (step) next.splice(at + by, 0, step);
    onChange(next);
  };
  const chosen = (value: string, step: Step): Partial<Step> => {
    const adjust = adjustments.find((each) => ADJUSTED + each.id === value);
    if (adjust) return { profile: "", own: false, adjustment: adjust.adjustment, named: adjust.name };
    if (value === ADJUSTED) return {};
    return { profile: value, own: step.own && separated.has(value), adjustment: null, named: "" };
  };
  return (
    <ol className="route-line" aria-label="Route">
      <li>
        <span className="stop">
          <RegisterMark /> <b>{listName}</b>
        </span>
        <span className="soft">{count === undefined ? "" : counted(count, "color")}</span>
        <span className="strong">{travelled?.columns[0]?.channels.join(" ")}</span>
      </li>
      {steps.map((step, at) => {
        const name = names.find(([choice]) => choice === step.profile)?.[1] ?? "A profile";
        const label = `Step ${at + 1}`;
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: a step is its place in the line
          <li key={at} data-bypassed={step.bypassed || undefined}>
            <span className="stop">
              <RegisterMark filled={!step.bypassed} />
              <select
                className="field"
                aria-label={`${label}: profile or adjustment`}
                value={step.adjustment ? ADJUSTED : step.profile}
                onChange={(event) => changed(at, chosen(event.target.value, step))}
              >
                {step.adjustment && <option value={ADJUSTED}>{step.named}</option>}
                {!step.adjustment && !names.some(([choice]) => choice === step.profile) && (
                  <option value={step.profile}>{name}</option>
                )}
                {names.map(([choice, text]) => (
                  <option key={choice} value={choice}>
                    {text}
                  </option>
                ))}
                {adjustments.length > 0 && (
                  <optgroup label="Adjust the numbers of the step before">
                    {adjustments.map((each) => (
                      <option key={each.id} value={ADJUSTED + each.id}>
                        {each.name}
                      </option>
                    ))}
                  </optgroup>
                )}
              </select>
            </span>
            {step.adjustment ? (
              <span className="soft">adjusts the numbers of the step before</span>
            ) : (
              <HowOfProfile
                label={label}
                step={step}
                separated={separated.has(step.profile)}
                onChange={(part) => changed(at, part)}
              />
            )}
            <span className="acts">
              <button
                type="button"
                className="quiet-button"
                aria-pressed={step.bypassed}
                aria-label={`${label}: bypass`}
                onClick={() => changed(at, { bypassed: !step.bypassed })}
              >
                {step.bypassed ? "Bypassed" : "Bypass"}
              </button>
              <button
                type="button"
                className="quiet-button"
                disabled={at === 0}
                aria-label={`${label}: earlier`}
                onClick={() => moved(at, -1)}
              >
                ←
              </button>
              <button
                type="button"
                className="quiet-button"
                disabled={at === steps.length - 1}
                aria-label={`${label}: later`}
                onClick={() => moved(at, 1)}
              >
                →
              </button>
              <button
                type="button"
                className="quiet-button"
                aria-label={`Remove step ${at + 1}`}
                onClick={() => onChange(steps.filter((_, each) => each !== at))}
              >
                Remove
              </button>
            </span>
          </li>
        );
      })}
    </ol>
  );
}

interface HowProps {
  label: string;
  step: Step;
  separated: boolean;
  onChange: (part: Partial<Step>) => void;
}

/** Intent, black point compensation and own separation of a step. */
function HowOfProfile({ label, step, separated, onChange }: HowProps) {
  return (
    <span className="how">
      <select
        className="field"
        aria-label={`${label}: intent`}
        value={step.intent}
        onChange={(event) => onChange({ intent: event.target.value as Step["intent"] })}
      >
        {INTENTS.map((each) => (
          <option key={each} value={each}>
            {each}
          </option>
        ))}
      </select>
      <label title="Black point compensation">
        <input
          type="checkbox"
          checked={step.bpc && step.intent !== "absolute"}
          disabled={step.intent === "absolute"}
          aria-label={`${label}: black point compensation`}
          onChange={(event) => onChange({ bpc: event.target.checked })}
        />{" "}
        BPC
      </label>
      {separated && (
        <label title="Inks by the condition's own separation, limits and black, instead of the profile's tables">
          <input
            type="checkbox"
            checked={step.own}
            aria-label={`${label}: own separation`}
            onChange={(event) => onChange({ own: event.target.checked })}
          />{" "}
          own separation
        </label>
      )}
    </span>
  );
}
