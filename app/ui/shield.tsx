/** A gateway's sign: one shape, letter and colour each, the same everywhere. */

const shapes = [
  "M3 2h18v12l-9 8-9-8z",
  "M12 1l11 11-11 11L1 12z",
  "M12 1.5a10.5 10.5 0 1 0 0 21 10.5 10.5 0 0 0 0-21z",
  "M6.5 2h11L23 12l-5.5 10h-11L1 12z",
  "M2 2h20v20H2z",
  "M12 1.5L23 21.5H1z",
];

export const shieldLetter = (gateway: number) => String.fromCharCode(65 + (gateway % 26));
export const shieldColour = (gateway: number) => `var(--shield-${(gateway % shapes.length) + 1})`;

interface ShieldProps {
  gateway: number;
  label: string;
  /** Outlined: standby. */
  outline?: boolean;
  size?: number;
}

export function Shield({ gateway, label, outline, size = 22 }: ShieldProps) {
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 24 24"
      role="img"
      aria-label={`${shieldLetter(gateway)}: ${label}`}
      className="shrink-0"
    >
      <title>{label}</title>
      <ShieldShape gateway={gateway} outline={outline} />
    </svg>
  );
}

/** The sign's drawing alone, for use inside another one; 24 units wide. */
export function ShieldShape({ gateway, outline }: { gateway: number; outline?: boolean }) {
  const colour = shieldColour(gateway);
  const triangle = gateway % shapes.length === 5;
  return (
    <>
      <path
        d={shapes[gateway % shapes.length]}
        fill={outline ? "var(--panel)" : colour}
        stroke={colour}
        strokeWidth={outline ? 2 : 0}
      />
      <text
        x="12"
        y={triangle ? 19.5 : 16.6}
        textAnchor="middle"
        fontSize={triangle ? 11 : 13}
        fontWeight="600"
        fontFamily="var(--font-sign)"
        fill={outline ? colour : "var(--shield-ink)"}
      >
        {shieldLetter(gateway)}
      </text>
    </>
  );
}
