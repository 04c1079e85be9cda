/** The product's one sign: a register mark, filled for the station in use. */
export function RegisterMark({ size = 20, filled = false }: { size?: number; filled?: boolean }) {
  return (
    <svg width={size} height={size} viewBox="0 0 20 20" aria-hidden="true">
      <circle
        cx="10"
        cy="10"
        r="6"
        fill={filled ? "var(--ink)" : "none"}
        stroke="var(--ink)"
        strokeWidth="1.6"
      />
      <path d="M10 0V20M0 10H20" stroke="var(--ink)" strokeWidth="1.6" />
      {filled && <path d="M10 5V15M5 10H15" stroke="var(--panel)" strokeWidth="1.6" />}
    </svg>
  );
}
