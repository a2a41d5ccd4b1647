import { z } from "zod";
import { idField, labelField, millisecondsField } from "./fields.ts";

const profileFields = {
  label: labelField,
  /** Distance of a static route that names none; null: this family knows no distance. */
  staticDistance: z.number().int().min(1).max(255).nullable(),
  /** Distance of a default through a handed-out gateway. */
  handedOutDistance: z.number().int().min(1).max(255),
  /** How many routes to one destination share the load. */
  equalCost: z.number().int().min(1).max(256),
  /** Whether routes that share the load must leave by one interface. */
  equalCostOneInterface: z.boolean(),
  /** What a next hop may resolve through (rule 4.3). */
  resolve: z.enum(["connected", "not-default", "any"]),
  /** How a route that names an interface and no next hop is taken (rule 4.2). */
  interfaceNextHop: z.enum(["refuse", "point-to-point", "warn", "allow"]),
  /** Whether a static route must name its outgoing interface. */
  interfaceRequired: z.boolean(),
  /** A second default at the same distance on another interface. */
  secondDefault: z.enum(["allow", "refuse"]),
  stateful: z.boolean(),
  betweenZones: z.enum(["allow", "deny"]),
  withinZone: z.enum(["allow", "deny"]),
  /** Whether the policy sees a translated destination, or the one that the sender wrote to (rule 6.9). */
  policyDestination: z.enum(["new", "original"]),
  returnPath: z.enum(["off", "loose", "strict"]),
  /** Whether that check asks the policy tables that a packet back would meet, or main alone. */
  returnPathTables: z.enum(["policy", "main"]),
  /** Whether a default counts as a return path for a loose check (RFC 3704, 2.4). */
  returnPathDefault: z.boolean(),
  /** Whether mid-stream packets without state are handled as new packets or dropped (rule 18). */
  midStream: z.enum(["drop", "as-new"]),
  /** Whether routes by an interface without carrier are withdrawn, or kept in use (rule 1). */
  carrierLoss: z.enum(["withdraw", "keep"]),
  /** Whether a route stands whose session was never up (rule 9.2): down, or ignored. */
  neverUp: z.enum(["down", "ignored"]),
  /** The source of its ICMP errors: the interface toward the sender, or the interface on which the packet arrived. */
  errorsFrom: z.enum(["way-back", "way-in"]),
  errorsFromIpv6: z.enum(["way-back", "way-in"]),
  /** Whether it decrements the hop limit of forwarded packets (rule 6.11). */
  decrements: z.boolean(),
  /** The result for a tunnel that is routed into itself: it goes down, or stays up and loses its packets (rule 2.5). */
  selfRecursiveTunnel: z.enum(["down", "up"]),
  /** The greatest distance with which a route is used at all, learned ones too; greater is unusable (rule 5.1). */
  maxDistance: z.number().int().min(1).max(255),
  /** Whether replies of a session follow the routes, or leave by where it came in (rule 6.8). */
  replyBy: z.enum(["route", "came-in"]),
  /**
   * How long it goes on to send to neighbors that it no longer hears, over media on which neighbors are resolved; null:
   * for ever (rule 2.6).
   */
  neighbourAgeMs: z.strictObject({ min: millisecondsField, max: millisecondsField }).nullable(),
  /** From loss of carrier to the interface being taken down. */
  carrierDelayMs: millisecondsField,
  /** How long a sender keeps to a gateway that no longer answers; null: for ever. */
  deadGatewayMs: z.strictObject({ min: millisecondsField, max: millisecondsField }).nullable(),
  failback: z.enum(["at-once", "on-traffic", "never"]),
  /** Whether an interface's metric is added to those of its routes. */
  addInterfaceMetric: z.boolean(),
};

/** How a family of devices behaves (engine.md, 1). Every field is settled. */
const completeProfileSchema = z.strictObject(profileFields);
export type Profile = z.output<typeof completeProfileSchema>;

/** A plan's own profile: a base and what differs from it. */
export const profileSchema = completeProfileSchema
  .partial()
  .extend({ id: idField, base: idField.optional() });
export type ProfileEntry = z.output<typeof profileSchema>;

const classicRouter: Profile = {
  label: "Router with administrative distances",
  staticDistance: 1,
  handedOutDistance: 254,
  equalCost: 4,
  equalCostOneInterface: false,
  resolve: "not-default",
  interfaceNextHop: "warn",
  interfaceRequired: false,
  secondDefault: "allow",
  stateful: false,
  betweenZones: "allow",
  withinZone: "allow",
  policyDestination: "new",
  returnPath: "off",
  returnPathTables: "policy",
  returnPathDefault: true,
  midStream: "drop",
  carrierLoss: "withdraw",
  neverUp: "down",
  errorsFrom: "way-in",
  // RFC 4443, 2.2. Kernels take the other one.
  errorsFromIpv6: "way-back",
  decrements: true,
  selfRecursiveTunnel: "down",
  maxDistance: 254,
  replyBy: "route",
  neighbourAgeMs: null,
  carrierDelayMs: 100,
  deadGatewayMs: null,
  failback: "at-once",
  addInterfaceMetric: false,
};

/** How long a kernel takes a neighbor for reachable (30 s, by chance half to one and a half), and asks it again. */
const KERNEL_NEIGHBOR_AGE = { min: 8000, max: 56_000 };

const host: Profile = {
  ...classicRouter,
  label: "End host",
  staticDistance: null,
  errorsFrom: "way-back",
  errorsFromIpv6: "way-in",
  selfRecursiveTunnel: "up",
  neighbourAgeMs: KERNEL_NEIGHBOR_AGE,
  maxDistance: 255,
  equalCost: 1,
  resolve: "connected",
  interfaceNextHop: "allow",
  carrierDelayMs: 0,
  deadGatewayMs: { min: 10_000, max: 30_000 },
  addInterfaceMetric: true,
};

const forwardingService: Profile = {
  ...classicRouter,
  label: "Provider",
  maxDistance: 255,
  equalCost: 1,
  resolve: "any",
  interfaceNextHop: "allow",
  carrierDelayMs: 0,
};

export const builtInProfiles: Readonly<Record<string, Profile>> = {
  "classic-router": classicRouter,
  "preference-router": {
    ...classicRouter,
    label: "Router with route preferences",
    maxDistance: 255,
    staticDistance: 5,
    handedOutDistance: 5,
    equalCost: 16,
    resolve: "any",
    interfaceNextHop: "point-to-point",
  },
  "metric-router": {
    ...classicRouter,
    label: "Router with metrics only",
    staticDistance: null,
    midStream: "as-new",
    errorsFrom: "way-back",
    errorsFromIpv6: "way-in",
    selfRecursiveTunnel: "up",
    neighbourAgeMs: KERNEL_NEIGHBOR_AGE,
    maxDistance: 255,
    equalCost: 16,
    resolve: "connected",
    interfaceNextHop: "allow",
    carrierDelayMs: 0,
  },
  "zone-firewall": {
    ...classicRouter,
    label: "Firewall with zones",
    staticDistance: 10,
    handedOutDistance: 10,
    resolve: "connected",
    interfaceNextHop: "point-to-point",
    stateful: true,
    betweenZones: "deny",
  },
  "interface-firewall": {
    ...classicRouter,
    label: "Firewall with routes by interface",
    handedOutDistance: 1,
    equalCost: 3,
    equalCostOneInterface: true,
    resolve: "connected",
    interfaceNextHop: "refuse",
    interfaceRequired: true,
    secondDefault: "refuse",
    stateful: true,
    betweenZones: "deny",
  },
  host,
  "sticky-host": { ...host, label: "End host that keeps its gateway", failback: "on-traffic" },
  provider: forwardingService,
  internet: { ...forwardingService, label: "The internet" },
  cloud: { ...forwardingService, label: "Cloud network" },
};

/** The profile that a device of each role has where it names none. */
export const profileOfRole = {
  router: "classic-router",
  firewall: "zone-firewall",
  host: "host",
  provider: "provider",
  internet: "internet",
  cloud: "cloud",
} as const;
