import { formatAddress } from "../address/index.ts";
import type { Network } from "../network/index.ts";
import type { Breaking } from "../walk/index.ts";
import { secondsText } from "./durations.ts";

/** Why established sessions break, or may break, as a sentence (rule 18). */
export function breakingText(network: Network, breaking: Breaking): string {
  const text = reasonText(network, breaking);
  return breaking.uncertain ? `${text}; not certain, it depends on timing or on who sends first` : text;
}

function reasonText({ devices }: Network, breaking: Breaking): string {
  if (breaking.kind === "source") {
    const [before, after] = [breaking.before, breaking.after].map(formatAddress);
    return `${devices[breaking.at].id} sees the source ${after} instead of ${before}`;
  }
  if (breaking.kind === "stalled")
    return `nothing passes for ${secondsText(breaking.forMs)} s, and the session times out after ${secondsText(breaking.timeoutMs)} s`;
  const { code, device, reply } = breaking;
  const { id } = devices[device];
  if (code === "no-state") return `${id} has no session state${reply ? " for the reply" : ""}`;
  if (code === "source-not-own") return `${id} has lost the source address of the session`;
  return `${reply ? "the reply of" : "a packet of"} an established session is dropped at ${id} (${code})`;
}
