/** A gate: a bar across the link, parted when open, whole when shut, dotted while undecided. */
export function GateMark({ state, inError = false, size = 18 }: { state: string; inError?: boolean; size?: number }) {
  const colour = inError ? "var(--failed)" : state === "undecided" ? "var(--soft)" : "var(--ink)";
  const parted = state === "open";
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 18 18"
      role="img"
      aria-label={inError ? "gate shut in error" : state === "drawn" ? "gate" : `gate ${state}`}
    >
      <rect x="4" y="0" width="10" height="18" fill="var(--paper)" />
      <line
        x1="0"
        y1="9"
        x2={parted || state === "undecided" || state === "drawn" ? 18 : 7}
        y2="9"
        stroke="var(--link)"
        strokeWidth="1.6"
      />
      {parted ? (
        <path d="M9 0.5v5M9 12.5v5" stroke={colour} strokeWidth="3.2" strokeLinecap="round" />
      ) : (
        <path
          d="M9 1.5v15"
          stroke={colour}
          strokeWidth={state === "shut" ? 3.6 : 2.4}
          strokeLinecap="round"
          strokeDasharray={state === "undecided" ? "0.1 4.4" : undefined}
        />
      )}
    </svg>
  );
}
