import { carriersOf, walkBothWays } from "../../forwarding/index.ts";
import { elementParts, formatElement, interfaceElement } from "../../network/index.ts";
import { sweep } from "../../outage/index.ts";
import type { AskedFlow, Context } from "../context.ts";
import type { Check, Report } from "../finding.ts";

const path = (flow: string, failed: string[] = []) => ({ kind: "path" as const, flow, failed });
const seconds = (ms: number) => `${Math.round(ms / 100) / 10} s`;

/** The flow is not carried in the order that is expected of it. */
export const carrierOrder: Check = {
  code: "carrier-order",
  severity: "error",
  run: (context) =>
    context.flows.flatMap(({ flow, trip, question }): Report[] => {
      const wanted = flow.expect?.carriers ?? [];
      if (wanted.length === 0) return [];
      const failed: number[] = [];
      for (const [n, id] of wanted.entries()) {
        const now = n === 0 ? trip : walkBothWays(context.settle(failed).world, question);
        const carriers = carriersOf(
          context.gateways,
          now.branches.map((branch) => branch.outbound),
        ).map((g) => context.gateways[g].id);
        if (now.verdict !== "works" || carriers.find((c) => wanted.includes(c)) !== id) {
          const refs = failed.map((e) => formatElement(context.network, e));
          const instead = now.verdict === "works" ? carriers.join(", ") || "no gateway" : "nobody";
          return [
            {
              device: null,
              subject: flow.id,
              text: `${flow.id} is expected to be carried by ${id}${refs.length ? ` when ${refs.join(" and ")} ${refs.length > 1 ? "are" : "is"} down` : ""}; ${instead} carries it.`,
              evidence: [path(flow.id, refs)],
            },
          ];
        }
        const gateway = context.gateways.find((g) => g.id === id);
        if (gateway) failed.push(interfaceElement(context.network, gateway.interface));
      }
      return [];
    }),
};

/** A failure that the flow survives leaves it dead for longer than is allowed. */
export const outageTooLong: Check = {
  code: "outage-too-long",
  severity: "warning",
  run: (context) =>
    context.flows.flatMap(({ flow }, i): Report[] => {
      const allowed = flow.expect?.maxOutageMs;
      if (allowed === undefined) return [];
      const long = context.sweep[i].failures.filter(
        (f) => f.verdict === "works" && (f.outageMs.max ?? Number.POSITIVE_INFINITY) > allowed,
      );
      if (long.length === 0) return [];
      const worst = long.reduce((a, b) =>
        (b.outageMs.max ?? Number.POSITIVE_INFINITY) > (a.outageMs.max ?? Number.POSITIVE_INFINITY) ? b : a,
      );
      const refs = worst.failed.map((e) => formatElement(context.network, e));
      const most = worst.outageMs.max === null ? "without end" : `up to ${seconds(worst.outageMs.max)}`;
      return [
        {
          device: null,
          subject: flow.id,
          text: `${flow.id} may be dead for ${seconds(allowed)}; when ${refs.join(" and ")} fails it is for ${most}${long.length > 1 ? `, and so with ${long.length - 1} other failures` : ""}.`,
          evidence: [path(flow.id, refs)],
        },
      ];
    }),
};

/** A device that the flow must pass is bypassed. */
export const deviceBypassed: Check = {
  code: "device-bypassed",
  severity: "error",
  run: (context) =>
    context.flows.flatMap(({ flow, trip }): Report[] =>
      (flow.expect?.through ?? []).flatMap((id): Report[] => {
        const device = context.network.deviceIndex.get(id);
        const passed = trip.branches.every((branch) =>
          branch.outbound.hops.some((hop) => hop.device === device),
        );
        if (trip.verdict !== "works" || passed) return [];
        return [
          {
            device: id,
            subject: flow.id,
            text: `${flow.id} must pass ${id}, and does not.`,
            evidence: [path(flow.id)],
          },
        ];
      }),
    ),
};

/** A failure, or so many at once, that a flow must survive and does not. */
export const singlePointOfFailure: Check = {
  code: "single-point-of-failure",
  severity: "error",
  run: (context) =>
    context.flows.flatMap((asked, i): Report[] => {
      const survive = asked.flow.expect?.survive ?? 0;
      if (survive === 0 || asked.trip.verdict !== "works") return [];
      const depth = Math.min(3, survive) as 1 | 2 | 3;
      const swept =
        depth === 1 ? context.sweep[i] : sweep(context.engine, context.gateways, [asked.question], depth)[0];
      const deadly = swept.failures.filter(
        (f) => f.verdict !== "works" && !f.failed.some((e) => isOwnEnd(context, asked, e)),
      );
      if (deadly.length === 0) return [];
      const named = deadly.map((f) => f.failed.map((e) => formatElement(context.network, e)));
      const shown = named.slice(0, 6).map((refs) => refs.join(" with "));
      return [
        {
          device: null,
          subject: asked.flow.id,
          text: `${asked.flow.id} must survive ${survive === 1 ? "any one failure" : `any ${survive} failures`}, and does not survive ${shown.join(", ")}${named.length > shown.length ? ` and ${named.length - shown.length} more` : ""}.`,
          evidence: named.map((refs) => path(asked.flow.id, refs)),
        },
      ];
    }),
};

/** Whether an element is the sender or the receiver, or is attached to one of them: nothing could help there. */
function isOwnEnd(context: Context, { trip }: AskedFlow, element: number): boolean {
  const { network } = context;
  const { interfaces, links } = network;
  const { hops } = trip.worst.outbound;
  const ends = [hops[0].device, hops[hops.length - 1].device];
  const { kind, index } = elementParts(network, element);
  if (kind === "device") return ends.includes(index);
  if (kind === "watch") return false;
  if (kind === "interface") {
    const link = interfaces.link[index];
    return ends.includes(interfaces.device[index]) || (link >= 0 && touches(link));
  }
  return touches(index);

  function touches(link: number): boolean {
    for (let e = links.endStart[link]; e < links.endStart[link + 1]; e++) {
      if (ends.includes(interfaces.device[links.ends[e]])) return true;
    }
    return false;
  }
}
