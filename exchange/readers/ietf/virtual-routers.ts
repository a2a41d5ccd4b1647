import { formatAddress, parseAddress } from "../../../core/address/index.ts";
import type { VirtualFact } from "../../facts/index.ts";
import { child, list, text } from "./tree.ts";

/** Virtual routers of an interface's family, and sentences about unread parts. */
export interface VirtualsRead {
  readonly virtual: readonly VirtualFact[];
  readonly unread: readonly string[];
}

const number = (tree: unknown, name: string): number | null => {
  const told = text(tree, name);
  return told === null || !/^\d+$/.test(told) ? null : Number(told);
};

/** RFC 8347: the content of "vrrp" in an interface's IPv4 or IPv6; defaults are the model's. */
export function virtualsOf(family: unknown, version: 4 | 6): VirtualsRead {
  const virtual: VirtualFact[] = [];
  const unread: string[] = [];
  for (const instance of list(child(family, "vrrp"), "vrrp-instance")) {
    const id = number(instance, "vrid");
    const addresses = list(
      child(instance, `virtual-ipv${version}-addresses`),
      `virtual-ipv${version}-address`,
    ).flatMap((entry) => {
      const address = parseAddress(text(entry, `ipv${version}-address`) ?? "");
      return address ? [formatAddress(address)] : [];
    });
    if (id === null || id < 1 || id > 255 || addresses.length === 0) {
      unread.push(`a virtual router without ${addresses.length === 0 ? "an address" : "an id"}`);
      continue;
    }
    const preempt = child(instance, "preempt");
    const track = child(instance, "track");
    const seconds = number(instance, "advertise-interval-sec");
    virtual.push({
      id,
      addresses,
      priority: Math.min(254, Math.max(1, number(instance, "priority") ?? 100)),
      preempt: text(preempt, "enabled") !== "false",
      preemptDelayMs: (number(preempt, "hold-time") ?? 0) * 1000,
      advertMs: (number(instance, "advertise-interval-centi-sec") ?? (seconds ?? 1) * 100) * 10,
      accept: text(instance, "accept-mode") === "true",
      track: list(child(track, "interfaces"), "interface").flatMap((entry) => {
        const port = text(entry, "interface");
        return port === null ? [] : [{ interface: port, lower: number(entry, "priority-decrement") ?? 10 }];
      }),
      active: activeIn(text(instance, "state")),
    });
    if (list(child(track, "networks"), "network").length > 0)
      unread.push(`networks tracked by the virtual router ${id}`);
  }
  return { virtual, unread };
}

/** RFC 8347, state identities: the initial state is neither. */
function activeIn(state: string | null): boolean | null {
  switch (state?.replace(/^.*:/, "")) {
    case "master":
      return true;
    case "backup":
      return false;
    default:
      return null;
  }
}
