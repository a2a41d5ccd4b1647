import { formatAddress } from "../address/index.ts";
import type { Breaking } from "../forwarding/index.ts";
import type { Network } from "../network/index.ts";

/** Why what was established breaks, in a sentence (rule 18). */
export function breakingText({ devices }: Network, breaking: Breaking): string {
  if (breaking.kind === "source") {
    const [before, after] = [breaking.before, breaking.after].map(formatAddress);
    return `${devices[breaking.at].id} sees the source ${after} instead of ${before}`;
  }
  const { code, device, reply } = breaking;
  const { id } = devices[device];
  if (code === "no-state") return `${id} has no session state${reply ? " for the reply" : ""}`;
  if (code === "source-not-own") return `${id} has lost the source address of the session`;
  return `${reply ? "the reply of" : "a packet of"} an established session is dropped at ${id} (${code})`;
}
