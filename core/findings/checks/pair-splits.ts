import { elementParts, fateElement, formatElement, linkElement } from "../../network/index.ts";
import { bothActive } from "../../settle/index.ts";
import type { Check } from "../check.ts";

/** A single failure that silences all heartbeats of a pair while both live: both are active then (rule 17.4). */
export const pairSplits: Check = {
  code: "pair-splits",
  title: "One failure makes both of a pair active",
  consequence: "on-failure",
  severity: "warning",
  run: (context) => {
    const { network } = context;
    return network.pairs.flatMap((pair) => {
      if (pair.heartbeats.length === 0) return [];
      const own = new Set(pair.members);
      const links = Array.from({ length: network.links.planned }, (_, link) => linkElement(network, link));
      const fates = network.fates.flatMap(({ elements }, fate) => {
        const takesOne = elements.some((element) => {
          const { kind, index } = elementParts(network, element);
          return kind === "device" && own.has(index);
        });
        return takesOne ? [] : [fateElement(network, fate)];
      });
      const carrying = links.filter(
        (link) =>
          pair.heartbeats.includes(link) ||
          pair.heartbeats.some((heartbeat) => network.links.riders.get(link)?.includes(heartbeat)),
      );
      const splitting = [...carrying, ...fates].filter((element) =>
        bothActive(context.settle([element]).world.state.roles, pair),
      );
      if (splitting.length === 0) return [];
      const refs = splitting.map((element) => formatElement(network, element));
      const [one, other] = pair.members.map((d) => network.devices[d].id);
      return [
        {
          device: network.devices[pair.members[pair.preferred]].id,
          subject: pair.id,
          text: `If ${refs.slice(0, 4).join(" or ")} fails, ${one} and ${other} lose their heartbeat and both become active. Packets may reach either. Add a second heartbeat over another link.`,
          evidence: [],
        },
      ];
    });
  },
};
