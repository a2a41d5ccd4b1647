import type { Arrival, DropCode, Verdict } from "../../core/walk/index.ts";

/** The sign of how a packet ended, with its word: never colour alone. */

const signs: Record<DropCode, { text: string; d: string }> = {
  "no-route": { text: "no route", d: "M5 7h14M12 7v11" },
  discarded: { text: "discarded", d: "M6 6l12 12M18 6L6 18" },
  rejected: { text: "rejected", d: "M6 6l12 12M18 6L6 18" },
  "neighbour-silent": { text: "no response", d: "M9 9a3 3 0 1 1 3 3v2M12 18v.5" },
  "host-not-listening": { text: "no response", d: "M9 9a3 3 0 1 1 3 3v2M12 18v.5" },
  "link-dead": { text: "undetected", d: "M9 9a3 3 0 1 1 3 3v2M12 18v.5" },
  looped: { text: "loop", d: "M17 9a6 6 0 1 0 1 5M18 5v4h-4" },
  "policy-denied": { text: "denied", d: "M6 12h12" },
  "half-session": { text: "half a session", d: "M6 12h12" },
  "no-state": { text: "reply denied", d: "M6 12h12" },
  "return-path": { text: "return path", d: "M18 12H6M10 8l-4 4 4 4" },
  "private-at-internet": { text: "private address", d: "M5 7h14M12 7v11" },
  "forwarding-off": { text: "not forwarded", d: "M6 12h12" },
  "source-not-own": { text: "wrong source", d: "M6 6l12 12" },
  "no-source": { text: "no address", d: "M6 6l12 12" },
  "device-down": { text: "device down", d: "M6 6l12 12M18 6L6 18" },
  "wrong-device": { text: "wrong device", d: "M6 6l12 12" },
  "link-local": { text: "link-local", d: "M6 12h12" },
  "beyond-outline": { text: "not modeled", d: "M9 9a3 3 0 1 1 3 3v2M12 18v.5" },
  "virtual-not-accepted": { text: "not accepted", d: "M6 12h12" },
  "hop-limit": { text: "hop limit", d: "M17 9a6 6 0 1 0 1 5M18 5v4h-4" },
};

/** The symbol of a code; none for other text, such as "". */
const signOf = (code: string) => (signs as Partial<Record<string, { text: string; d: string }>>)[code];

export function endText(code: string): string {
  return signOf(code)?.text ?? code;
}

/** The words for a flow that does not work, or must not: why it does not arrive, or that it does. */
export function flowStateText({
  verdict,
  ended,
  arrival,
}: {
  verdict: Verdict;
  ended: string | null;
  arrival?: Arrival;
}): string {
  if (arrival === "arrives") return "not denied";
  if (arrival === "denied") return "denied, as expected";
  if (verdict === "one-way") return "no return path";
  return ended ? endText(ended) : "does not work";
}

/** A drop's sign: an octagon with what happened. */
export function DropSign({ code, size = 16 }: { code: string; size?: number }) {
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 24 24"
      aria-hidden="true"
      className={`shrink-0 ${code === "beyond-outline" ? "text-ink-2" : "text-stop"}`}
    >
      <path d="M7.5 1h9L23 7.5v9L16.5 23h-9L1 16.5v-9z" fill="currentColor" />
      <path d={signOf(code)?.d ?? "M6 12h12"} fill="none" stroke="var(--panel)" strokeWidth="2.6" />
    </svg>
  );
}
