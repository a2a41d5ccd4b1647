import { formatAddress } from "../address/index.ts";
import type { Breaking } from "../forwarding/index.ts";
import type { Network } from "../network/index.ts";

/** Why what was established breaks, in a sentence (rule 18). */
export function breakingText({ devices }: Network, breaking: Breaking): string {
  if (breaking.kind === "source") {
    const [before, after] = [breaking.before, breaking.after].map(formatAddress);
    return `${devices[breaking.at].id} sees it come from ${after} instead of ${before}`;
  }
  const { code, device, reply } = breaking;
  const { id } = devices[device];
  if (code === "no-state") return `${id} has no state of it${reply ? " for the reply" : ""}`;
  if (code === "source-not-own") return `${id} has lost the address that it began with`;
  return `${reply ? "the reply to" : "a packet of"} what is established dies at ${id} (${code})`;
}
