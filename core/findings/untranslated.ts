import { formatAddress, isGloballyRoutable } from "../address/index.ts";
import { dropText } from "../words/index.ts";
import type { Report } from "./check.ts";
import type { Context } from "./context.ts";
import { flowRemedies } from "./flow-remedies.ts";
import { lastInside } from "./outside.ts";

/** Flows that leave for the internet with an untranslated private source: replies never return. `forgotten` selects
 * those on a device that translates other networks on that exit. */
export function untranslated(context: Context, forgotten: boolean): Report[] {
  return context.flows.flatMap(({ flow, question, trip }): Report[] => {
    const { outbound, reply } = trip.worst;
    const exit = lastInside(context, outbound);
    const source = outbound.packet?.source;
    // A translated flow carries the translated source there.
    if (
      trip.verdict === "works" ||
      !exit ||
      exit.translated ||
      !source ||
      isGloballyRoutable(source) ||
      !reply?.drop
    )
      return [];
    if (reply.drop.code !== "private-at-internet" && reply.drop.code !== "no-route") return [];
    const device = context.network.devices[exit.device];
    const others = context
      .deviceOf(device)
      .sourceNat.filter((nat) => nat.out === context.network.interfaces.names[exit.out]);
    if (others.length > 0 !== forgotten) return [];
    const out = context.network.interfaces.names[exit.out];
    return [
      {
        device: device.id,
        subject: flow.id,
        text: `Flow ${flow.id} leaves ${device.id} by ${out} from the private address ${formatAddress(source)}, ${forgotten ? `which the translation there does not cover` : "untranslated"}, so no reply returns: ${dropText(context.healthy.state, reply, reply.drop)}.`,
        evidence: [{ kind: "path", flow: flow.id, failed: [] }],
        fixes: () => flowRemedies(context, question),
      },
    ];
  });
}
