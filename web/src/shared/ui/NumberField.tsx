import "./NumberField.css";
import { useState } from "react";
import { type Figures, figureOf } from "../typedNumber";

interface Props extends Figures {
  /** What the figure is, for those who do not see where it stands. */
  label: string;
  value: number | null | undefined;
  disabled?: boolean;
  className?: string;
  /** What holds where nothing is typed. */
  placeholder?: string;
  onKeep: (value: number | null) => void;
}

/** A figure that is typed and kept on leaving or by Enter; one that cannot be kept stays there with a word about it. */
export function NumberField({
  label,
  value,
  disabled,
  className = "plain-input",
  placeholder,
  onKeep,
  ...figures
}: Props) {
  const [typed, setTyped] = useState<string>();
  const [refused, setRefused] = useState("");
  const leave = () => {
    setTyped(undefined);
    setRefused("");
  };
  function keep() {
    if (typed === undefined) return;
    const wanted = figureOf(typed, figures);
    if (typeof wanted === "string") return setRefused(wanted);
    if (wanted !== (value ?? null)) onKeep(wanted);
    leave();
  }
  return (
    <span className="number-field">
      <input
        className={className}
        inputMode={figures.whole ? "numeric" : "decimal"}
        aria-label={label}
        aria-invalid={refused ? true : undefined}
        disabled={disabled}
        placeholder={placeholder}
        value={typed ?? value ?? ""}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === "Escape") leave();
          if (event.key !== "Enter") return;
          // In a form, Enter sends what was kept before.
          event.preventDefault();
          keep();
        }}
      />
      {refused && <small role="alert">{refused}</small>}
    </span>
  );
}
