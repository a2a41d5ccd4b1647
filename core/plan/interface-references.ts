import { parseAddress } from "../address/index.ts";
import type { Device, Interface } from "./device.ts";
import type { Report } from "./errors.ts";

type Ports = ReadonlyMap<string, Interface>;

/** Bundles and tagged interfaces (rule 15): their parts exist, are used once, and have no addresses themselves. */
export function checkBuilt(device: Device, ports: Ports, path: PropertyKey[], report: Report) {
  const bundled = new Map<string, string>();
  const tags = new Map<string, string>();
  for (const [i, port] of device.interfaces.entries()) {
    const at = [...path, "interfaces", i];
    for (const [k, name] of (port.members ?? []).entries()) {
      const fault = faultOfMember(ports.get(name), name, port, bundled.get(name));
      if (fault) report([...at, "members", k], fault);
      bundled.set(name, port.name);
    }
    if (port.parent === undefined) continue;
    const parent = ports.get(port.parent);
    if (parent && (parent.parent !== undefined || parent.kind === "loopback" || parent.kind === "tunnel"))
      report(
        [...at, "parent"],
        `${port.parent} cannot carry tags: it is ${parent.parent === undefined ? `a ${parent.kind}` : "tagged itself"}`,
      );
    const tag = `${port.parent} ${port.vlan}`;
    const other = tags.get(tag);
    if (other !== undefined)
      report([...at, "vlan"], `${other} has the tag ${port.vlan} of ${port.parent} too`);
    tags.set(tag, port.name);
  }
}

function faultOfMember(
  member: Interface | undefined,
  name: string,
  bundle: Interface,
  other: string | undefined,
): string | null {
  if (!member) return null;
  if (other !== undefined) return `${name} is already a member of ${other}`;
  if (member.kind !== undefined && member.kind !== "ethernet")
    return `${name} is of kind ${member.kind}; a bundle's members are ethernet ports`;
  if (member.addresses.length || member.virtual?.length || member.parent !== undefined)
    return `${name} has its own addresses or tag; a bundle's members use those of ${bundle.name}`;
  return null;
}

/** Virtual routers (rule 14) differ in id or family on their interface. */
export function checkVirtual(device: Device, path: PropertyKey[], report: Report) {
  for (const [i, port] of device.interfaces.entries()) {
    const taken = new Set<string>();
    for (const [k, router] of (port.virtual ?? []).entries()) {
      const at = [...path, "interfaces", i, "virtual", k];
      const families = new Set(router.addresses.map((text) => parseAddress(text)?.family));
      for (const family of families) {
        const key = `${router.id} ${family}`;
        if (taken.has(key))
          report([...at, "id"], `${port.name} has the virtual router ${router.id} for IPv${family} twice`);
        taken.add(key);
      }
    }
  }
}
