import {
  deviceElement,
  type ElementNumber,
  formatElement,
  interfaceElement,
  linkElement,
  type Network,
  type State,
  watchElement,
} from "../../network/index.ts";
import { partsOf, takesPart } from "../../settle/index.ts";
import type { Check, Report } from "../check.ts";
import type { Context } from "../context.ts";
import { deviceId, virtualName, virtualSubject } from "../virtual.ts";

/** A virtual router without an Active member: the candidates must wait for another member of their sync group, which
 * hears a higher priority (rule 14.7). */
export const syncKeepsBackup: Check = {
  code: "sync-keeps-backup",
  title: "A sync group leaves a virtual address without an Active router",
  consequence: "on-failure",
  severity: "warning",
  run: (context) => {
    const { network } = context;
    if (network.virtuals.every(({ together }) => together.length === 1)) return [];
    const found = new Map<number, Report>();
    const look = (state: State, failed: string | null) => {
      for (const v of withoutActive(state)) {
        if (found.has(v)) continue;
        const record = network.virtuals[v];
        const device = deviceId(network, record.interface);
        const name = virtualName(context, record);
        found.set(v, {
          device,
          subject: virtualSubject(context, record),
          text: `${failed === null ? "No router is" : `If ${failed} fails, no router is`} Active for ${name}: ${device} stays Backup, because ${matesText(context, v)} of the same sync group ${record.together.length > 2 ? "hear" : "hears"} a better Active.`,
          evidence: [],
        });
      }
    };
    look(context.healthy.state, null);
    for (const element of around(network)) {
      const { state } = context.settle([element]).world;
      look(state, formatElement(network, element));
    }
    return [...found.values()];
  },
};

/** The elements sync groups depend on: interfaces with their links and devices, and tracked elements. */
function around(network: Network): Set<ElementNumber> {
  const { virtuals, interfaces, links } = network;
  const elements = new Set<ElementNumber>();
  for (const { interface: i, track, together } of virtuals) {
    if (together.length === 1) continue;
    elements.add(interfaceElement(network, i)).add(deviceElement(network, interfaces.device[i]));
    const link = interfaces.link[i];
    if (link >= 0 && link < links.planned) elements.add(linkElement(network, link));
    for (const { watch, interface: tracked } of track)
      elements.add(watch >= 0 ? watchElement(network, watch) : interfaceElement(network, tracked));
  }
  return elements;
}

/** Members of sync groups that could be Active while no member is; one per separated part of a group. */
function withoutActive(state: State): number[] {
  const { network, roles } = state;
  return network.virtualGroups.flatMap((group) =>
    partsOf(state, group).flatMap(({ members, heard }) => {
      const able = members.filter((v) => takesPart(state, v));
      if ([...able, ...heard].some((v) => roles.virtualActive[v])) return [];
      return able.filter((v) => network.virtuals[v].together.length > 1).slice(0, 1);
    }),
  );
}

function matesText(context: Context, v: number): string {
  const { network } = context;
  const others = network.virtuals[v].together.filter((one) => one !== v);
  return others.map((one) => virtualName(context, network.virtuals[one])).join(" or ");
}
