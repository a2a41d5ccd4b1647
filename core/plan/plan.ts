import { z } from "zod";
import { formatZonedAddress, parseZonedAddress } from "../address/index.ts";
import { deviceSchema } from "./device.ts";
import {
  addressField,
  capacityField,
  elementField,
  endField,
  idField,
  labelField,
  millisecondsField,
  nameField,
  noteField,
  portField,
  protocolField,
} from "./fields.ts";
import { profileSchema } from "./profile.ts";

export const linkSchema = z.strictObject({
  id: idField,
  label: labelField.optional(),
  medium: z.enum(["cable", "switch", "circuit", "multipoint"]).default("cable"),
  /** The end that all others of a multipoint link reach alone (rule 2.7). */
  hub: endField.optional(),
  /** None where it only carries other links. */
  ends: z.array(endField).default([]),
  delayMs: z.number().min(0).max(60_000).optional(),
  /** The links it rides on: it fails when any of them fails (rule 16.1). */
  over: z.array(idField).optional(),
  mbps: capacityField.optional(),
  note: noteField.optional(),
});
export type Link = z.output<typeof linkSchema>;

export const gatewaySchema = z.strictObject({
  id: idField,
  label: labelField.optional(),
  at: endField,
  via: addressField.optional(),
  mbps: capacityField.optional(),
});
export type Gateway = z.output<typeof gatewaySchema>;

const expectSchema = z.strictObject({
  /** The flow must not arrive: policy denies it, or a route discards or rejects it. */
  verdict: z.literal("denied").optional(),
  carriers: z.array(z.string().min(1)).optional(),
  through: z.array(idField).optional(),
  symmetric: z.boolean().optional(),
  maxOutageMs: millisecondsField.optional(),
  survive: z.number().int().min(0).max(3).optional(),
});

export const flowSchema = z
  .strictObject({
    id: idField,
    label: labelField.optional(),
    /** A device, or device/interface. */
    from: z.string().min(1),
    source: addressField.optional(),
    /** An address, kept in canonical form, or a device. */
    to: z
      .string()
      .min(1)
      .transform((text) => {
        const zoned = parseZonedAddress(text);
        return zoned ? formatZonedAddress(zoned) : text;
      }),
    protocol: protocolField.optional(),
    port: portField.optional(),
    rate: z.number().min(0).max(1e9).optional(),
    mbps: capacityField.optional(),
    /** Idle timeout of an established session (rule 18). */
    sessionTimeoutMs: millisecondsField.optional(),
    expect: expectSchema.optional(),
  })
  .superRefine((flow, ctx) => {
    if (flow.port !== undefined && (flow.protocol ?? "icmp") === "icmp") {
      ctx.addIssue({
        code: "custom",
        path: ["port"],
        message: `the flow ${flow.id} has a port; set \`protocol\` to tcp or udp`,
      });
    }
  });
export type Flow = z.output<typeof flowSchema>;

export const outageSchema = z.strictObject({
  id: idField,
  label: labelField.optional(),
  steps: z
    .array(
      z.strictObject({
        atMs: millisecondsField,
        fail: z.array(elementField).optional(),
        /** The same, announced: virtual routers and pairs hand over at once (rules 14.2, 17). */
        shut: z.array(elementField).optional(),
        restore: z.array(elementField).optional(),
      }),
    )
    .min(1, "an outage needs at least one step"),
});
export type Outage = z.output<typeof outageSchema>;

/** Elements that fail together (rule 16.2; a shared risk group, RFC 4202): a duct, a power feed, a room. plain-ok */
export const riskSchema = z.strictObject({
  id: idField,
  label: labelField.optional(),
  /** Links, devices, interfaces and sites. */
  of: z.array(elementField).min(1, "a shared risk needs at least one member"),
  note: noteField.optional(),
});
export type Risk = z.output<typeof riskSchema>;

/** Two devices that are one to their neighbours (rule 17). */
export const pairSchema = z
  .strictObject({
    id: idField,
    label: labelField.optional(),
    members: z.array(idField).length(2, "a pair must have two members"),
    /** The member that is active while both are well. */
    active: idField,
    preempt: z.boolean().default(false),
    helloMs: millisecondsField.min(1, "at least 1 ms").default(1000),
    missed: z.number().int().min(1).max(1000).default(3),
    /** Links over which the members hear each other. */
    heartbeats: z.array(idField).default([]),
    /** Interfaces or watches of both members: the one on which fewer are down should be active. */
    monitor: z.array(nameField).default([]),
    /** Whether the standby knows the established flows of the active one. */
    syncStates: z.boolean().default(false),
    note: noteField.optional(),
  })
  .superRefine((pair, ctx) => {
    if (pair.members[0] === pair.members[1])
      ctx.addIssue({ code: "custom", path: ["members"], message: "a pair must have two different members" });
    if (!pair.members.includes(pair.active))
      ctx.addIssue({
        code: "custom",
        path: ["active"],
        message: `${pair.active} is no member of the pair ${pair.id}; its members are ${pair.members.join(" and ")}`,
      });
  });
export type Pair = z.output<typeof pairSchema>;

/** An accepted finding with its reason; recorded in the plan. */
export const dismissalSchema = z.strictObject({
  code: idField,
  device: idField.optional(),
  subject: z.string().min(1).max(2000),
  reason: z.string().min(1, "a dismissal needs a reason").max(2000, "at most 2000 characters"),
});
export type Dismissal = z.output<typeof dismissalSchema>;

/** What tells a finding from others: its code, its device and its subject. */
export function dismissalKey(of: { code: string; device?: string | null; subject: string }): string {
  return `${of.code} ${of.device ?? ""} ${of.subject}`;
}

/** The plan document, version 1: its one definition. */
/** Assumptions about parts that the plan does not draw (rule 2.8). */
export const assumeSchema = z.strictObject({
  /** Whether ethernet and serial interfaces with an address that no link names are up. */
  unlinked: z.enum(["up", "down"]).default("down"),
  /** Whether addresses of subnets behind routers answer that nothing of the plan has. */
  hosts: z.enum(["answer", "silent"]).default("silent"),
});

export const planSchema = z.strictObject({
  ironFork: z.literal(1, { error: "the version must be 1" }),
  name: z.string().min(1, "a plan needs a name").max(200),
  description: z.string().max(10_000).optional(),
  assume: assumeSchema.optional(),
  profiles: z.array(profileSchema).default([]),
  devices: z.array(deviceSchema).default([]),
  links: z.array(linkSchema).default([]),
  risks: z.array(riskSchema).default([]),
  pairs: z.array(pairSchema).default([]),
  gateways: z.array(gatewaySchema).default([]),
  flows: z.array(flowSchema).default([]),
  outages: z.array(outageSchema).default([]),
  dismissals: z.array(dismissalSchema).default([]),
});

/** A plan that was read and checked. Addresses and prefixes are in canonical text form. */
export type Plan = z.output<typeof planSchema>;
