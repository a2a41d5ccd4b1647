import { formatAddress } from "../../address/index.ts";
import { dropText } from "../../words/index.ts";
import type { Check } from "../check.ts";
import type { Context, TracedFlow } from "../context.ts";
import { flowRemedies } from "../flow-remedies.ts";
import { passesOutside } from "../outside.ts";

/** A flow that arrives and gets no answer: a device on the return path lacks the route. */
export const missingReturnRoute: Check = {
  code: "missing-return-route",
  title: "A flow arrives but gets no reply",
  consequence: "lost",
  severity: "error",
  run: (context) =>
    context.flows.flatMap((asked) => {
      const { reply, outbound } = asked.trip.worst;
      const drop = reply?.drop;
      if (asked.trip.verdict !== "one-way" || !reply || !drop) return [];
      if (!["no-route", "private-at-internet", "looped", "discarded", "rejected"].includes(drop.code))
        return [];
      // A private source that left the network untranslated is another mistake.
      if (drop.code === "private-at-internet" && passesOutside(context, outbound)) return [];
      const astray = strayingDevice(context, asked);
      const id = context.network.devices[astray].id;
      const source = reply.packet ? formatAddress(reply.packet.destination) : "the sender";
      return [
        {
          device: id,
          subject: asked.flow.id,
          text: `Flow ${asked.flow.id} gets no reply: ${id} has no route to ${source}: ${dropText(context.healthy.state, reply, drop)}.`,
          evidence: [{ kind: "path" as const, flow: asked.flow.id, failed: [] }],
          fixes: () => flowRemedies(context, asked.question),
        },
      ];
    }),
};

/** The last device of the reply that the packet passed on its way out: from there on, the reply goes astray. */
function strayingDevice(context: Context, { trip }: TracedFlow): number {
  const there = new Set(trip.worst.outbound.hops.map((hop) => hop.device));
  const back = trip.worst.reply?.hops ?? [];
  const last = back.findLast(
    (hop) =>
      there.has(hop.device) && !["internet", "provider"].includes(context.network.devices[hop.device].role),
  );
  return last?.device ?? back[back.length - 1].device;
}
