import type { Network } from "../network/index.ts";
import type { Breaking } from "../walk/index.ts";
import { breakingText } from "../words/index.ts";
import type { SessionsReport } from "./schemas.ts";

/** The key with its value; nothing if new packets do not arrive. */
export function sessionsOf(
  network: Network,
  sessions: Breaking | "kept" | null,
): { sessions?: SessionsReport } {
  if (sessions === null) return {};
  if (sessions === "kept") return { sessions: { state: "kept", reason: null } };
  const broken = { state: "broken" as const, reason: breakingText(network, sessions) };
  return { sessions: sessions.uncertain ? { ...broken, uncertain: true } : broken };
}
