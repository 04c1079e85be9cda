/** What the measured ramps ask for, a line each. */
export function Advice({ lines = [] }: { lines?: string[] }) {
  return lines.map((line) => (
    <p key={line} className="notice">
      {line}
    </p>
  ));
}
