import { containsAddress, formatAddress, type Prefix, parsePrefix } from "../../address/index.ts";
import { endsOf, interfaceName } from "../../network/index.ts";
import type { Check } from "../check.ts";

/** A translation to an address that the provider behind it does not announce, but another does: replies go there (rule 6.10). */
export const translatedToTheOtherProvider: Check = {
  code: "translated-to-the-other-provider",
  title: "A source is translated to another provider's address",
  consequence: "lost",
  severity: "error",
  run: (context) => {
    const { network } = context;
    const { devices, interfaces, links, plan } = network;
    const announcing = devices.flatMap(({ index, id }) => {
      const prefixes = (plan.devices[index].announces ?? []).map((text) => parsePrefix(text) as Prefix);
      return prefixes.length ? [{ index, id, prefixes }] : [];
    });
    return devices.flatMap((record) =>
      record.sourceNat.flatMap(({ out, to }) => {
        const link = interfaces.link[out];
        if (!to || link < 0) return [];
        const behind = new Set(Array.from(endsOf(links, link), (end) => interfaces.device[end]));
        const own = announcing.filter(({ index }) => behind.has(index));
        const holds = ({ prefixes }: (typeof announcing)[number]) =>
          prefixes.some((p) => containsAddress(p, to));
        const other = announcing.find((one) => !behind.has(one.index) && holds(one));
        if (own.length === 0 || own.some(holds) || !other) return [];
        return [
          {
            device: record.id,
            subject: `${interfaces.names[out]} ${formatAddress(to)}`,
            text: `${record.id} translates traffic leaving by ${interfaces.names[out]} to ${formatAddress(to)}, which is announced by ${other.id} and not by ${own.map(({ id }) => id).join(", ")}. Replies return by the other provider or are lost.`,
            evidence: [{ kind: "interface" as const, interface: interfaceName(network, out) }],
          },
        ];
      }),
    );
  },
};
