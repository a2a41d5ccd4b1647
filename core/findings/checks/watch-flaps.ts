import { formatElement, linkElement } from "../../network/index.ts";
import type { Check } from "../check.ts";

/** Watches that never come to rest, with no failures or when one link fails (rule 9.5). */
export const watchFlaps: Check = {
  code: "watch-flaps",
  title: "A watch flaps",
  consequence: "on-failure",
  severity: "error",
  run: (context) => {
    const { network } = context;
    if (network.watches.length === 0) return [];
    const found = new Map<number, string | null>();
    const look = (failed: number | null) => {
      const { flapping } = failed === null ? context.engine.healthy : context.settle([failed]);
      for (const record of network.watches) {
        const states = new Set(flapping.map((world) => world.state.watchUp[record.index]));
        if (states.size > 1 && !found.has(record.index))
          found.set(record.index, failed === null ? null : formatElement(network, failed));
      }
    };
    look(null);
    for (let link = 0; link < network.links.planned; link++) look(linkElement(network, link));
    return [...found].map(([index, failed]) => {
      const record = network.watches[index];
      const id = network.devices[record.device].id;
      return {
        device: id,
        subject: record.watch.id,
        text: `The watch ${record.watch.id} of ${id} flaps ${failed ? `when ${failed} fails` : context.healthy.state.failed.length > 0 ? "with the current failures" : "even with no failures"}: its result changes the routes that its own probes use.`,
        evidence: [{ kind: "watch" as const, watch: `${id}/${record.watch.id}` }],
      };
    });
  },
};
