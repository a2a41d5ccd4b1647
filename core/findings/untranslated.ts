import {
  type Address,
  containsAddress,
  formatAddress,
  formatPrefix,
  isGloballyRoutable,
  type Prefix,
  parsePrefix,
} from "../address/index.ts";
import { addressesOf } from "../network/index.ts";
import { dropText } from "../words/index.ts";
import type { Report } from "./check.ts";
import type { Context } from "./context.ts";
import { lastInside } from "./outside.ts";

/** The other interfaces by which a device's defaults lead outside and that do not translate a source: a backup needs it too. */
function otherExits(
  context: Context,
  { device, out }: { device: number; out: number },
  source: Address,
): string[] {
  const { network, gateways } = context;
  const { interfaces, devices } = network;
  const own = context.deviceOf(devices[device]);
  const isOutside = (i: number) =>
    context
      .onLinkOf(i)
      .some((a) => a.interface !== i && ["provider", "internet"].includes(devices[a.device].role));
  const covers = (name: string) =>
    own.sourceNat.some(
      (nat) =>
        nat.out === name &&
        (!nat.from || nat.from.some((text) => containsAddress(parsePrefix(text) as Prefix, source))),
    );
  const exits = gateways.map((gateway) => gateway.interface).filter((i) => interfaces.device[i] === device);
  return [...new Set(exits)]
    .filter((i) => i !== out && addressesOf(network, i, source.family).length > 0 && isOutside(i))
    .map((i) => interfaces.names[i])
    .filter((name) => !covers(name));
}

/**
 * Flows whose private source leaves for the internet as it is: the packet goes, and nothing returns.
 * `forgotten` takes those that leave by a device that translates other networks there.
 */
export function untranslated(context: Context, forgotten: boolean): Report[] {
  return context.flows.flatMap(({ flow, trip }): Report[] => {
    const { outbound, reply } = trip.worst;
    const exit = lastInside(context, outbound);
    const source = outbound.packet?.source;
    // What is translated there bears the address that it was given.
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
    const subnet = context.attachments.find((a) => containsAddress(a.prefix, source));
    const out = context.network.interfaces.names[exit.out];
    const from = subnet
      ? formatPrefix(subnet.prefix)
      : `${formatAddress(source)}/${source.family === 4 ? 32 : 128}`;
    const exits = [out, ...otherExits(context, exit, source)];
    return [
      {
        device: device.id,
        subject: flow.id,
        text: `Flow ${flow.id} leaves ${device.id} by ${out} from the private address ${formatAddress(source)}, ${forgotten ? `which the translation there does not cover` : "untranslated"}, so no reply returns: ${dropText(context.healthy.state, reply, reply.drop)}.`,
        evidence: [{ kind: "path", flow: flow.id, failed: [] }],
        fixes: [
          {
            label: `Translate ${from} on ${exits.join(" and ")} of ${device.label}`,
            changes: exits.map((name) => ({
              ...{ in: "device", device: device.id, collection: "sourceNat", before: null },
              after: { out: name, from: [from], to: "interface" },
            })),
          },
        ],
      },
    ];
  });
}
