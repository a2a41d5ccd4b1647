import { z } from "zod";
import { parseAddress } from "../address/index.ts";
import {
  addressField,
  hardwareField,
  idField,
  interfaceAddressField,
  labelField,
  metricField,
  millisecondsField,
  nameField,
  noteField,
  prefixField,
  vrfField,
} from "./fields.ts";
import { policySchema, policyTableSchema, sourceNatSchema } from "./policy.ts";
import { learnedRouteSchema, staticRouteSchema } from "./route.ts";
import { watchSchema } from "./watch.ts";

export const roles = ["router", "firewall", "host", "provider", "internet", "cloud"] as const;
export type Role = (typeof roles)[number];

export const interfaceSchema = z
  .strictObject({
    name: nameField,
    kind: z.enum(["ethernet", "serial", "tunnel", "loopback", "management"]).optional(),
    vrf: vrfField.optional(),
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
        vrf: vrfField.optional(),
        keepaliveMs: millisecondsField.default(10_000),
        failAfter: z.number().int().min(1).max(1000).default(3),
      })
      .optional(),
    note: noteField.optional(),
  })
  .superRefine((entry, ctx) => {
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
        message: `the underlay leaves from ${from} and leads to ${to}, which are of different families`,
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
  /** Only seen from afar: it is there, and what is behind it nobody told. */
  outline: z.boolean().optional(),
  /** Where the drawing pins it, in drawing units. */
  place: z.strictObject({ x: z.number(), y: z.number() }).optional(),
  interfaces: z.array(interfaceSchema).default([]),
  routes: z.array(staticRouteSchema).default([]),
  learned: z.array(learnedRouteSchema).default([]),
  policyTables: z.array(policyTableSchema).default([]),
  sourceNat: z.array(sourceNatSchema).default([]),
  policy: policySchema.optional(),
  watches: z.array(watchSchema).default([]),
  announces: z.array(prefixField).optional(),
  reserved: z.number().int().min(0).max(1000).optional(),
});

export type Device = z.output<typeof deviceSchema>;
