import type { RulerPart, SummaryAnswer } from "../../../core/authoring/index.ts";

const WIDTH = 1000;

/** Where a prefix lies within another, as shares from 0 to 1. Both are IPv4 or both IPv6, as text. */
function placeOf(prefix: string, within: string): { from: number; share: number } {
  const [outer, inner] = [bitsOf(within), bitsOf(prefix)];
  const share = 2 ** (outer.length - inner.length);
  const offset = Number(inner.value - outer.value) / 2 ** (outer.width - outer.length);
  return { from: offset, share };
}

function bitsOf(text: string): { value: bigint; length: number; width: number } {
  const [address, length] = text.split("/");
  if (!address.includes(":")) {
    const value = address.split(".").reduce((sum, part) => sum * 256n + BigInt(part), 0n);
    return { value, length: Number(length), width: 32 };
  }
  const [head, tail = ""] = address.split("::");
  const left = head ? head.split(":") : [];
  const right = tail ? tail.split(":") : [];
  const groups = [...left, ...Array(8 - left.length - right.length).fill("0"), ...right];
  const value = groups.reduce((sum, group) => sum * 65536n + BigInt(`0x${group}`), 0n);
  return { value, length: Number(length), width: 128 };
}

const looks: Record<RulerPart["kind"], { fill: string; words: string }> = {
  route: { fill: "var(--iron)", words: "has a route" },
  elsewhere: { fill: "url(#ruler-elsewhere)", words: "located elsewhere" },
  unowned: { fill: "var(--sunk)", words: "no owner" },
};

/** The address space of a summary as a ruler: routed, located elsewhere, unowned. */
export function Ruler({ ruler }: { ruler: NonNullable<SummaryAnswer["ruler"]> }) {
  const parts = ruler.parts.map((part) => ({ ...part, ...placeOf(part.prefix, ruler.prefix) }));
  return (
    <figure className="mt-4">
      <svg
        viewBox={`0 0 ${WIDTH} 66`}
        className="block w-full max-w-5xl"
        role="img"
        aria-label={`${ruler.prefix}: ${parts.map((part) => `${part.prefix} ${looks[part.kind].words}`).join(", ")}`}
      >
        <defs>
          <pattern id="ruler-elsewhere" width="6" height="6" patternUnits="userSpaceOnUse">
            <rect width="6" height="6" fill="var(--panel)" />
            <path d="M0 6L6 0" stroke="var(--stop)" strokeWidth="2" />
          </pattern>
        </defs>
        {parts.map((part) => (
          <g key={`${part.kind} ${part.prefix}`}>
            <rect
              x={part.from * WIDTH + 0.5}
              y="20"
              width={Math.max(part.share * WIDTH - 1, 1)}
              height="24"
              fill={looks[part.kind].fill}
              stroke="var(--iron)"
            />
            {part.share > 0.09 && (
              <text
                x={(part.from + part.share / 2) * WIDTH}
                y="36"
                textAnchor="middle"
                fontSize="12"
                fontFamily="var(--font-addr)"
                fill={part.kind === "route" ? "var(--ground)" : "var(--ink)"}
              >
                {part.prefix}
              </text>
            )}
          </g>
        ))}
        {Array.from({ length: 17 }, (_, i) => (
          <line
            // biome-ignore lint/suspicious/noArrayIndexKey: the ticks of a ruler are nothing but their places.
            key={i}
            x1={(i / 16) * WIDTH}
            x2={(i / 16) * WIDTH}
            y1={i % 4 === 0 ? 10 : 15}
            y2="20"
            stroke="var(--ink-2)"
          />
        ))}
        <text x="0" y="60" fontSize="12" fontFamily="var(--font-addr)" fill="var(--ink-2)">
          {ruler.prefix}
        </text>
      </svg>
      <figcaption className="flex flex-wrap gap-4 text-[13px] text-ink-2">
        {(["route", "elsewhere", "unowned"] as const).map((kind) => (
          <span key={kind} className="flex items-center gap-1.5">
            <svg width="14" height="10" aria-hidden="true">
              <rect x="0.5" y="0.5" width="13" height="9" fill={looks[kind].fill} stroke="var(--iron)" />
            </svg>
            {looks[kind].words}
          </span>
        ))}
      </figcaption>
    </figure>
  );
}
