import {
  type Device,
  type Edit,
  type Interface,
  interfaceSchema,
  type Plan,
  removalOf,
} from "../../../core/plan/index.ts";
import type { FormSpec } from "./item-form.tsx";
import { listed, numbered, readItem, shown, tryEdit, typed, withoutEmpty } from "./reading.ts";

const kinds = ["ethernet", "serial", "tunnel", "loopback", "management"];

/** An interface of a device with its addresses; a new one where none is given. */
export function interfaceForm(plan: Plan, device: Device, port: Interface | null): FormSpec {
  const where = device.label ?? device.id;
  return {
    title: port ? `Edit ${port.name} of ${where}` : `Add an interface to ${where}`,
    submit: port ? "Keep it" : "Add the interface",
    removal: port && removalOf(plan, { interface: `${device.id}/${port.name}` }),
    initial: {
      name: shown(port?.name),
      addresses: shown(port?.addresses),
      kind: port?.kind ?? "ethernet",
      enabled: shown(port?.enabled ?? true),
      zone: shown(port?.zone),
      vrf: shown(port?.vrf),
      gatewayFrom: shown(port?.gatewayFrom),
      hardware: shown(port?.hardware),
      underlay: shown(port?.underlay?.to),
    },
    fields: (values) => [
      { name: "name", label: "Name", hint: "such as lan or eth0", mono: true },
      {
        name: "kind",
        label: "Kind",
        hint: "",
        options: kinds.map((kind) => ({ value: kind, label: kind })),
      },
      {
        name: "addresses",
        label: "Addresses",
        hint: "172.20.16.1/24, 2001:db8::1/64",
        mono: true,
        wide: true,
      },
      {
        name: "enabled",
        label: "State",
        hint: "",
        options: [
          { value: "true", label: "enabled" },
          { value: "false", label: "disabled" },
        ],
      },
      { name: "zone", label: "Zone", hint: "for policy between zones" },
      { name: "vrf", label: "VRF", hint: "main", mono: true },
      {
        name: "gatewayFrom",
        label: "Gateway from",
        hint: "",
        options: ["", "dhcp", "pppoe", "ra"].map((value) => ({ value, label: value || "nobody" })),
      },
      { name: "hardware", label: "Hardware address", hint: "00:00:5e:00:53:0a, for captures", mono: true },
      ...(values.kind === "tunnel"
        ? [{ name: "underlay", label: "Tunnel to", hint: "the far end's address", mono: true }]
        : []),
    ],
    read: (values) => {
      const to = typed(values, "underlay");
      const {
        name: _n,
        addresses: _a,
        kind: _k,
        enabled: _e,
        zone: _z,
        vrf: _v,
        gatewayFrom: _g,
        hardware: _h,
        ...kept
      } = port ?? ({} as Partial<Interface>);
      const item = withoutEmpty({
        ...kept,
        name: typed(values, "name") ?? "",
        kind: values.kind === "ethernet" && !port?.kind ? undefined : values.kind,
        addresses: listed(values, "addresses"),
        enabled: values.enabled === "false" ? false : undefined,
        zone: typed(values, "zone"),
        vrf: typed(values, "vrf"),
        gatewayFrom: typed(values, "gatewayFrom"),
        hardware: typed(values, "hardware"),
        underlay: values.kind === "tunnel" && to ? { ...port?.underlay, to } : undefined,
        metric: port?.metric ?? numbered(values, "metric"),
      });
      const reading = readItem(interfaceSchema, item);
      if (!reading.ok) return reading;
      const label = port ? `Change ${port.name} of ${where}` : `Add ${reading.item.name} to ${where}`;
      const edit: Edit = {
        label,
        changes: [
          {
            in: "device",
            device: device.id,
            collection: "interfaces",
            before: port,
            after: reading.item,
          },
        ],
      };
      return tryEdit(plan, edit, "name");
    },
  };
}
