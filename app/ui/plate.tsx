/** A device's plate: its outline tells the role. */

const CUT = 7;

/** The outline of a plate as an SVG path, from its role, in a box that starts at 0, 0. */
export function plateOutline(role: string, w: number, h: number): string {
  const cut = Math.min(CUT, h * 0.3);
  switch (role) {
    case "router":
      return `M0 0H${w - cut}L${w} ${h / 2}L${w - cut} ${h}H0z`;
    case "firewall":
      return `M${cut} 0H${w - cut}L${w} ${cut}V${h - cut}L${w - cut} ${h}H${cut}L0 ${h - cut}V${cut}z`;
    case "provider":
      return `M${h / 2} 0H${w - h / 2}A${h / 2} ${h / 2} 0 0 1 ${w - h / 2} ${h}H${h / 2}A${h / 2} ${h / 2} 0 0 1 ${h / 2} 0z`;
    case "cloud":
      return `M${cut} 0H${w - cut}L${w} ${h}H0z`;
    case "internet":
      return `M0 0H${w}V${h}H0zM3 3H${w - 3}V${h - 3}H3z`;
    default:
      return `M0 0H${w}V${h}H0z`;
  }
}

/** A small plate as a sign of the role, for use in running text and headings. */
export function RoleSign({ role, size = 14 }: { role: string; size?: number }) {
  const width = size * 1.6;
  return (
    <svg
      width={width + 2}
      height={size + 2}
      viewBox={`-1 -1 ${width + 2} ${size + 2}`}
      aria-hidden="true"
      className="shrink-0"
    >
      <path d={plateOutline(role, width, size)} fill="none" stroke="currentColor" strokeWidth="1.5" />
    </svg>
  );
}
