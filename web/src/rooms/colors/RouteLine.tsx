import type { Step, Travelled } from "../../api/colorQueries";
import { RegisterMark } from "../../shared/ui/RegisterMark";

const INTENTS = ["perceptual", "relative", "saturation", "absolute"] as const;

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
  const changed = (at: number, part: Partial<Step>) =>
    onChange(steps.map((step, each) => (each === at ? { ...step, ...part } : step)));
  const moved = (at: number, by: number) => {
    const next = [...steps];
    const [step] = next.splice(at, 1);
    if (step) next.splice(at + by, 0, step);
    onChange(next);
  };
  return (
    <ol className="route-line" aria-label="Route">
      <li>
        <span className="stop">
          <RegisterMark /> <b>{listName}</b>
        </span>
        <span className="soft">{count === undefined ? "" : `${count.toLocaleString("en")} colors`}</span>
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
                aria-label={`${label}: profile`}
                value={step.profile}
                onChange={(event) =>
                  changed(at, {
                    profile: event.target.value,
                    own: step.own && separated.has(event.target.value),
                  })
                }
              >
                {!names.some(([choice]) => choice === step.profile) && (
                  <option value={step.profile}>{name}</option>
                )}
                {names.map(([choice, text]) => (
                  <option key={choice} value={choice}>
                    {text}
                  </option>
                ))}
              </select>
            </span>
            <span className="how">
              <select
                className="field"
                aria-label={`${label}: intent`}
                value={step.intent}
                onChange={(event) => changed(at, { intent: event.target.value as Step["intent"] })}
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
                  onChange={(event) => changed(at, { bpc: event.target.checked })}
                />{" "}
                BPC
              </label>
              {separated.has(step.profile) && (
                <label title="Inks by the condition's own separation, limits and black, instead of the profile's tables">
                  <input
                    type="checkbox"
                    checked={step.own}
                    aria-label={`${label}: own separation`}
                    onChange={(event) => changed(at, { own: event.target.checked })}
                  />{" "}
                  own separation
                </label>
              )}
            </span>
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
