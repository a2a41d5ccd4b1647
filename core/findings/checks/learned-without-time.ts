import { formatAddress } from "../../address/index.ts";
import { mediumCodes, sourceCodes, viaOf } from "../../network/index.ts";
import { isTimeless, witnessesOf } from "../../timeline/index.ts";
import type { Check, Report } from "../check.ts";

/**
 * Learned routes that do not say how long they outlive their neighbor, where their device cannot see that it is gone: how
 * long an outage lasts is not known (rule 3.3).
 */
export const learnedWithoutTime: Check = {
  code: "learned-without-time",
  title: "Learned routes state no time after which they are lost",
  consequence: "on-failure",
  severity: "advice",
  run: ({ network }) => {
    const { candidates, devices, interfaces, links } = network;
    const found = new Map<string, { device: string; neighbour: string; count: number }>();
    for (const { id, firstCandidate, endCandidate } of devices) {
      for (let c = firstCandidate; c < endCandidate; c++) {
        if (candidates.source[c] !== sourceCodes.learned || !isTimeless(network, c)) continue;
        const { out, sessions } = witnessesOf(network, c);
        const link = out < 0 ? -1 : interfaces.link[out];
        // If the neighbor is at the far end of a cable, carrier detects every failure of it.
        if (sessions.length > 0 || (link >= 0 && links.medium[link] === mediumCodes.cable)) continue;
        const via = viaOf(network, c);
        const neighbour = via ? formatAddress(via) : (interfaces.names[out] ?? "");
        const key = `${id} ${neighbour}`;
        const known = found.get(key);
        found.set(key, { device: id, neighbour, count: (known?.count ?? 0) + 1 });
      }
    }
    return [...found.values()].map(
      ({ device, neighbour, count }): Report => ({
        device,
        subject: neighbour,
        text: `${count === 1 ? "The learned route" : `${count} learned routes`} of ${device} by ${neighbour} ${count === 1 ? "states" : "state"} no time after which ${count === 1 ? "it is" : "they are"} lost. If ${neighbour} dies silently, how long traffic is lost is not known. Enter the time under "Withdrawn after", such as the dead interval or hold time of the protocol.`,
        evidence: [],
      }),
    );
  },
};
