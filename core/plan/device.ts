import { z } from "zod";
import { parseAddress } from "../address/index.ts";
import {
  addressField,
  capacityField,
  hardwareField,
  idField,
  interfaceAddressField,
  labelField,
  metricField,
  millisecondsField,
  nameField,
  noteField,
  prefixField,
} from "./fields.ts";
import {
  destinationNatSchema,
  markSchema,
  policySchema,
  policyTableSchema,
  sourceNatSchema,
} from "./policy.ts";
import { learnedRouteSchema, staticRouteSchema } from "./route.ts";
import { virtualRouterSchema } from "./virtual.ts";
import { watchSchema } from "./watch.ts";

export const roles = ["router", "firewall", "host", "provider", "internet", "cloud"] as const;
export type Role = (typeof roles)[number];

export const interfaceSchema = z
  .strictObject({
    name: nameField,
    kind: z.enum(["ethernet", "serial", "tunnel", "loopback", "management", "bundle"]).optional(),
    vrf: nameField.optional(),
    addresses: z.array(interfaceAddressField).default([]),
    enabled: z.boolean().optional(),
    zone: nameField.optional(),
    metric: metricField.optional(),
    /** By which frames that it sent or got are known in a capture. */
    hardware: hardwareField.optional(),
    gatewayFrom: z.enum(["dhcp", "pppoe", "ra"]).optional(),
    underlay: z
      .strictObject({
        to: addressField,
        /** Where its outer packets leave from; else the address that the far end names, else as rule 6.1 chooses. */
        from: addressField.optional(),
        vrf: nameField.optional(),
        keepaliveMs: millisecondsField.default(10_000),
        failAfter: z.number().int().min(1).max(1000).default(3),
      })
      .optional(),
    /** A bundle's ports, how many of them must be up, and how its ends assure each other (rule 15.1, IEEE 802.1AX). */
    members: z.array(nameField).min(1, "a bundle needs its members").optional(),
    minUp: z.number().int().min(1).max(64).optional(),
    lacp: z.enum(["fast", "slow", "off"]).optional(),
    /** The interface that frames with this tag pass (rule 15.2, IEEE 802.1Q). */
    parent: nameField.optional(),
    vlan: z.number().int().min(1, "a tag must be 1 to 4094").max(4094, "a tag must be 1 to 4094").optional(),
    virtual: z.array(virtualRouterSchema).optional(),
    /** Whether it answers ARP for addresses that its device routes elsewhere (RFC 1027). */
    proxyArp: z.boolean().optional(),
    mbps: capacityField.optional(),
    note: noteField.optional(),
  })
  .superRefine((entry, ctx) => {
    const fault = (path: string, message: string) => ctx.addIssue({ code: "custom", path: [path], message });
    const isBundle = entry.kind === "bundle";
    if (isBundle && !entry.members) fault("members", `the bundle ${entry.name} names no members`);
    for (const key of ["members", "minUp", "lacp"] as const)
      if (!isBundle && entry[key] !== undefined)
        fault(key, `only a bundle has ${key}; ${entry.name} is of kind ${entry.kind ?? "ethernet"}`);
    if (entry.minUp !== undefined && entry.members && entry.minUp > entry.members.length)
      fault("minUp", `${entry.minUp} of only ${entry.members.length} members must be up`);
    if (entry.parent !== undefined && entry.vlan === undefined)
      fault("vlan", `${entry.name} has a parent but no tag; set \`vlan\``);
    if (entry.vlan !== undefined && entry.parent === undefined)
      fault("parent", `${entry.name} has a tag but no parent interface; set \`parent\``);
    if (entry.parent !== undefined && entry.kind !== undefined && entry.kind !== "ethernet")
      fault("kind", `${entry.name} has a parent, but a ${entry.kind} interface cannot have one`);
    if (entry.underlay && entry.kind !== "tunnel") {
      ctx.addIssue({
        code: "custom",
        path: ["underlay"],
        message: `only a tunnel has an underlay; ${entry.name} is of kind ${entry.kind ?? "ethernet"}`,
      });
    }
    const { from, to } = entry.underlay ?? {};
    if (from && to && parseAddress(from)?.family !== parseAddress(to)?.family) {
      ctx.addIssue({
        code: "custom",
        path: ["underlay", "from"],
        message: `the underlay leaves from ${from} and leads to ${to}, which have different address families`,
      });
    }
  });

export type Interface = z.output<typeof interfaceSchema>;

export const deviceSchema = z.strictObject({
  id: idField,
  label: labelField.optional(),
  role: z.enum(roles),
  site: idField.optional(),
  profile: idField.optional(),
  forwarding: z.strictObject({ ipv4: z.boolean().optional(), ipv6: z.boolean().optional() }).optional(),
  note: noteField.optional(),
  /** Not modeled beyond: the device exists, and the network behind it is unknown. */
  outline: z.boolean().optional(),
  /** Where the drawing pins it, in drawing units. */
  place: z.strictObject({ x: z.number(), y: z.number() }).optional(),
  interfaces: z.array(interfaceSchema).default([]),
  routes: z.array(staticRouteSchema).default([]),
  learned: z.array(learnedRouteSchema).default([]),
  policyTables: z.array(policyTableSchema).default([]),
  sourceNat: z.array(sourceNatSchema).default([]),
  destNat: z.array(destinationNatSchema).optional(),
  marks: z.array(markSchema).optional(),
  policy: policySchema.optional(),
  watches: z.array(watchSchema).default([]),
  announces: z.array(prefixField).optional(),
  /** From power to the moment when its interfaces rise, after a failure (rule 10.5). */
  bootMs: millisecondsField.optional(),
  reserved: z.number().int().min(0).max(1000).optional(),
});

export type Device = z.output<typeof deviceSchema>;
