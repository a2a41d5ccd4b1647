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
      label: "Gateway from",
      none: "nobody",
      words: { dhcp: "DHCP", pppoe: "PPPoE", ra: "router advertisements" },
    },
    members: {
      label: "Members",
      hint: "the ports that it is made of",
      suggest: device.interfaces.map((port) => port.name),
      mono: true,
      wide: true,
      when: isBundle,
    },
    minUp: { label: "Up with so many members", hint: "1", when: isBundle },
    lacp: {
      label: "Ends assure each other (LACP)",
      none: "slow: every 30 s",
      words: { fast: "fast: every second", slow: "slow: every 30 s", off: "off: never" },
      when: isBundle,
    },
    parent: {
      label: "Tagged on",
      hint: "the interface that its frames pass",
      suggest: device.interfaces.map((port) => port.name),
      mono: true,
    },
    vlan: { label: "Tag", hint: "1 to 4094" },
    mbps: { label: "Mbit/s", hint: "not said" },
    metric: { label: "Metric", hint: "added to its routes where the profile says so" },
    hardware: { label: "Hardware address", hint: "00:00:5e:00:53:0a, for captures", mono: true },
    "underlay.to": { label: "Tunnel to", hint: "the far end's address", mono: true, when: isTunnel },
    "underlay.from": { label: "Tunnel from", hint: "as the far end names it", mono: true, when: isTunnel },
    "underlay.vrf": { label: "Tunnel through VRF", hint: "main", mono: true, when: isTunnel },
    "underlay.keepaliveMs": {
      label: "Keepalive every, ms",
      hint: "10000; 0 for none",
      when: isTunnel,
    },
    "underlay.failAfter": { label: "Down after", hint: "3 missed", when: isTunnel },
    note: { label: "Note", hint: "any text", wide: true },
  };
}

/** An interface of a device with its addresses; a new one where none is given. */
export function interfaceForm(plan: Plan, device: Device, port: Interface | null): FormSpec {
  const where = device.label ?? device.id;
  return schemaForm({
    plan,
    schema: interfaceSchema,
    wording: wordingOf(device),
    item: port,
    title: port ? `Edit ${port.name} of ${where}` : `Add an interface to ${where}`,
    submit: port ? "Save" : "Add the interface",
    removal: port && removalOf(plan, { interface: `${device.id}/${port.name}` }),
    // Without where it leads to, a tunnel has no underlay at all; an empty field says so.
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
