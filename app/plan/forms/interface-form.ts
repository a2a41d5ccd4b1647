import {
  type Device,
  type Interface,
  interfaceSchema,
  type Plan,
  removalOf,
} from "../../../core/plan/index.ts";
import { deviceItemEdit, renamingEdit, withDevice } from "./edits.ts";
import type { FormSpec, Values } from "./item-form.tsx";
import { schemaForm, type Wording } from "./schema-form.ts";

const isBundle = (values: Values) => values.kind === "bundle";
const isTunnel = (values: Values) => values.kind === "tunnel";

function wordingOf(device: Device): Wording {
  const known = (list: readonly (string | undefined)[]) =>
    [...new Set(list)].filter((text) => text !== undefined);
  return {
    name: { label: "Name", hint: "such as lan or eth0", mono: true },
    kind: { label: "Kind", none: "ethernet" },
    addresses: { label: "Addresses", hint: "172.20.16.1/24, 2001:db8::1/64", mono: true, wide: true },
    enabled: { label: "State", none: "enabled", words: { true: "enabled", false: "disabled" } },
    zone: {
      label: "Zone",
      hint: "for policy between zones",
      suggest: known(device.interfaces.map((port) => port.zone)),
    },
    vrf: {
      label: "VRF",
      hint: "main",
      mono: true,
      suggest: known(device.interfaces.map((port) => port.vrf)),
    },
    gatewayFrom: {
      label: "Gateway assigned by",
      none: "not assigned",
      words: { dhcp: "DHCP", pppoe: "PPPoE", ra: "router advertisements" },
    },
    members: {
      label: "Members",
      hint: "member ports",
      suggest: device.interfaces.map((port) => port.name),
      mono: true,
      wide: true,
      when: isBundle,
    },
    minUp: { label: "Minimum members up", hint: "1", when: isBundle },
    lacp: {
      label: "LACP",
      none: "slow: every 30 s",
      words: { fast: "fast: every second", slow: "slow: every 30 s", off: "off" },
      when: isBundle,
    },
    parent: {
      label: "Parent interface",
      hint: "carries the tagged frames",
      suggest: device.interfaces.map((port) => port.name),
      mono: true,
    },
    vlan: { label: "VLAN tag", hint: "1 to 4094" },
    mbps: { label: "Capacity, Mbit/s", hint: "not set" },
    metric: { label: "Metric", hint: "added to its routes if the profile does so" },
    proxyArp: { label: "Proxy ARP", none: "off", words: { true: "on", false: "off" } },
    hardware: { label: "MAC address", hint: "00:00:5e:00:53:0a, for captures", mono: true },
    "underlay.to": { label: "Tunnel to", hint: "address of the far end", mono: true, when: isTunnel },
    "underlay.from": { label: "Tunnel from", hint: "source address", mono: true, when: isTunnel },
    "underlay.vrf": { label: "Tunnel through VRF", hint: "main", mono: true, when: isTunnel },
    "underlay.keepaliveMs": {
      label: "Keepalive interval",
      hint: "10 s; 0 for none",
      when: isTunnel,
    },
    "underlay.failAfter": { label: "Down after", hint: "3 missed", when: isTunnel },
    note: { label: "Note", hint: "any text", wide: true },
  };
}

/** An interface of a device with its addresses; a new one by default. */
export function interfaceForm(plan: Plan, device: Device, port: Interface | null): FormSpec {
  const where = device.label ?? device.id;
  return schemaForm({
    plan,
    schema: interfaceSchema,
    wording: wordingOf(device),
    item: port,
    title: port ? `Edit ${port.name} of ${where}` : `Add interface to ${where}`,
    submit: port ? "Save" : "Add interface",
    removal: port && removalOf(plan, { interface: `${device.id}/${port.name}` }),
    // A tunnel without a far end has no underlay.
    fill: (item, values) => {
      if (!isTunnel(values) || !values["underlay.to"]?.trim()) {
        const { underlay: _underlay, ...rest } = item;
        return rest;
      }
      return item;
    },
    edit: (after) => {
      if (!port) return deviceItemEdit(`Add ${after.name} to ${where}`, device, "interfaces", null, after);
      const label = `Change ${port.name} of ${where}`;
      if (port.name === after.name) return deviceItemEdit(label, device, "interfaces", port, after);
      const place = (renamed: Plan) =>
        withDevice(renamed, device.id, (other) => ({
          ...other,
          interfaces: other.interfaces.map((entry) => (entry.name === after.name ? after : entry)),
        }));
      return renamingEdit({
        plan,
        label: `Rename ${port.name} of ${where} to ${after.name}`,
        what: { interface: port.name, of: device.id },
        to: after.name,
        place,
      });
    },
  });
}
