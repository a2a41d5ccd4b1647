import { z } from "zod";

/** A virtual router of an interface, in one family. Missing values have their defaults. */
export const virtualFactSchema = z.strictObject({
  id: z.number().int(),
  addresses: z.array(z.string()),
  priority: z.number().int(),
  preempt: z.boolean(),
  preemptDelayMs: z.number(),
  advertMs: z.number(),
  accept: z.boolean(),
  /** Interfaces that lower its priority while they are down. */
  track: z.array(z.strictObject({ interface: z.string(), lower: z.number().int() })),
  /** Whether it is the Active one of its group. */
  active: z.boolean().nullable().default(null),
});
export type VirtualFact = z.output<typeof virtualFactSchema>;

/** The facts about one interface. Missing values are null. */
export const interfaceFactSchema = z.strictObject({
  name: z.string(),
  kind: z.enum(["ethernet", "serial", "tunnel", "loopback", "bundle", "bridge", "vrf", "other"]).nullable(),
  /** Whether it works; `enabled` is whether it was switched on. */
  up: z.boolean().nullable(),
  enabled: z.boolean().nullable(),
  hardware: z.string().nullable(),
  /** With their lengths, in canonical form; link-local ones among them. */
  addresses: z.array(z.string()),
  vrf: z.string().nullable(),
  parent: z.string().nullable(),
  vlan: z.number().int().nullable(),
  members: z.array(z.string()),
  /** Of a bundle: how many of its ports must be up, and how often its ends assure each other (IEEE 802.1AX). */
  minUp: z.number().int().nullable().default(null),
  lacp: z.enum(["fast", "slow", "off"]).nullable().default(null),
  zone: z.string().nullable(),
  mbps: z.number().nullable(),
  virtual: z.array(virtualFactSchema).default([]),
});
export type InterfaceFact = z.output<typeof interfaceFactSchema>;

/** A route, one for each next hop. `table` is the policy table's name where the source has such. */
export const routeFactSchema = z.strictObject({
  to: z.string(),
  via: z.string().nullable(),
  out: z.string().nullable(),
  vrf: z.string(),
  table: z.string().nullable(),
  /** static, connected, local, or the protocol's name; null if unknown. */
  source: z.string().nullable(),
  distance: z.number().int().nullable(),
  metric: z.number().nullable(),
  /** Whether the device forwards by it; null where the source does not tell. */
  active: z.boolean().nullable(),
  discard: z.enum(["drop", "reject"]).nullable(),
  /** Its weight among equal routes; 1 if missing. */
  weight: z.number().int().optional(),
  /** The source that packets take by it, which is an address of the device. */
  own: z.string().optional(),
});
export type RouteFact = z.output<typeof routeFactSchema>;

/** A rule that sends some packets to a table of their own. */
export const ruleFactSchema = z.strictObject({
  priority: z.number().int(),
  from: z.string().nullable(),
  in: z.string().nullable(),
  table: z.string(),
  /** What else it asks for; missing where it takes anything. */
  to: z.string().optional(),
  protocol: z.enum(["icmp", "tcp", "udp"]).optional(),
  port: z.string().optional(),
  mark: z.number().int().optional(),
});
export type RuleFact = z.output<typeof ruleFactSchema>;

/** A neighbour seen on a link: its address and hardware. */
const neighbourFactSchema = z.strictObject({
  address: z.string(),
  hardware: z.string().nullable(),
  interface: z.string().nullable(),
});

/** A device that announced itself on a link (IEEE 802.1AB). */
const adjacencyFactSchema = z.strictObject({
  interface: z.string(),
  name: z.string().nullable(),
  port: z.string().nullable(),
  hardware: z.string().nullable(),
});

export const translationFactSchema = z.strictObject({
  out: z.string(),
  from: z.array(z.string()),
  to: z.string(),
});
export type TranslationFact = z.output<typeof translationFactSchema>;

/** A destination that is translated for what arrives (rule 6.9). */
export const destinationFactSchema = z.strictObject({
  in: z.array(z.string()),
  to: z.string(),
  protocol: z.enum(["icmp", "tcp", "udp"]).optional(),
  port: z.number().int().optional(),
  via: z.string(),
  viaPort: z.number().int().optional(),
});
export type DestinationFact = z.output<typeof destinationFactSchema>;

/** A mark that packets get on arrival (rule 6.10); empty lists match all. */
export const markFactSchema = z.strictObject({
  set: z.number().int(),
  in: z.array(z.string()),
  from: z.array(z.string()),
  to: z.array(z.string()),
  protocol: z.enum(["icmp", "tcp", "udp"]).optional(),
  port: z.union([z.number().int(), z.string()]).optional(),
});
export type MarkFact = z.output<typeof markFactSchema>;

/** What one device said of itself. */
export const deviceFactsSchema = z.strictObject({
  device: z.string(),
  interfaces: z.array(interfaceFactSchema),
  routes: z.array(routeFactSchema),
  rules: z.array(ruleFactSchema),
  neighbours: z.array(neighbourFactSchema),
  adjacent: z.array(adjacencyFactSchema),
  translations: z.array(translationFactSchema),
  destinations: z.array(destinationFactSchema).default([]),
  marks: z.array(markFactSchema).default([]),
  /** Whether it forwards packets of others; null if unknown. */
  forwarding: z.strictObject({ ipv4: z.boolean().nullable(), ipv6: z.boolean().nullable() }),
});
export type DeviceFacts = z.output<typeof deviceFactsSchema>;

/** What became of a line or object of the input: nothing is dropped without one. */
export type Fate = "taken" | "doubtful" | "known" | "not-understood";

export interface LineFate {
  readonly file: string;
  /** From 1; where an object begins. */
  readonly line: number;
  readonly text: string;
  readonly fate: Fate;
  /** How it was read, or why it was not. */
  readonly detail: string;
}

/** The number of lines by their fate: "41 read, 2 assumed, 3 ignored, 0 not understood". */
export function countsText(lines: readonly Pick<LineFate, "fate">[]): string {
  const count = (fate: Fate) => lines.filter((line) => line.fate === fate).length;
  return `${count("taken")} read, ${count("doubtful")} assumed, ${count("known")} ignored, ${count("not-understood")} not understood`;
}
