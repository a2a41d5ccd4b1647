import { z } from "zod";
import { type Device, deviceSchema, interfaceSchema } from "./device.ts";
import {
  assumeSchema,
  dismissalKey,
  dismissalSchema,
  flowSchema,
  gatewaySchema,
  linkSchema,
  outageSchema,
  type Plan,
  pairSchema,
  riskSchema,
} from "./plan.ts";
import { policyTableSchema, sourceNatSchema } from "./policy.ts";
import { profileSchema } from "./profile.ts";
import { learnedRouteSchema, routeIdentity, type StaticRoute, staticRouteSchema } from "./route.ts";
import { watchSchema } from "./watch.ts";

/** The lists of a plan, and the key that identifies an item in each. Edits and differences of plans refer to these. */
export interface Collection {
  /** What one item is called in a sentence. */
  readonly noun: string;
  readonly schema: z.ZodType;
  // biome-ignore lint/suspicious/noExplicitAny: items of every collection pass through here, checked by its schema.
  readonly key: (item: any) => string;
}

const byId = (item: { id: string }) => item.id;

export const planCollections = {
  profiles: { noun: "profile", schema: profileSchema, key: byId },
  devices: { noun: "device", schema: deviceSchema, key: byId },
  links: { noun: "link", schema: linkSchema, key: byId },
  risks: { noun: "risk", schema: riskSchema, key: byId },
  pairs: { noun: "pair", schema: pairSchema, key: byId },
  gateways: { noun: "gateway", schema: gatewaySchema, key: byId },
  flows: { noun: "flow", schema: flowSchema, key: byId },
  outages: { noun: "outage", schema: outageSchema, key: byId },
  dismissals: { noun: "dismissal", schema: dismissalSchema, key: dismissalKey },
} satisfies Record<string, Collection>;

export const deviceCollections = {
  interfaces: { noun: "interface", schema: interfaceSchema, key: (x: { name: string }) => x.name },
  routes: { noun: "route", schema: staticRouteSchema, key: routeIdentity },
  learned: {
    noun: "learned route",
    schema: learnedRouteSchema,
    key: (x: StaticRoute & { protocol: string }) => `${x.protocol} ${routeIdentity(x)}`,
  },
  policyTables: { noun: "policy table", schema: policyTableSchema, key: (x: { name: string }) => x.name },
  sourceNat: {
    noun: "translation",
    schema: sourceNatSchema,
    key: (x: { out: string; from?: string[]; to: string }) =>
      `${x.out} ${x.from?.join(",") ?? "any"} ${x.to}`,
  },
  watches: { noun: "watch", schema: watchSchema, key: byId },
} satisfies Record<string, Collection>;

/** What a device says of itself, besides its collections. */
export const deviceSettingsSchema = deviceSchema.omit({
  interfaces: true,
  routes: true,
  learned: true,
  policyTables: true,
  sourceNat: true,
  watches: true,
});
export type DeviceSettings = z.output<typeof deviceSettingsSchema>;

export function settingsOf(device: Device): DeviceSettings {
  const {
    interfaces: _i,
    routes: _r,
    learned: _l,
    policyTables: _t,
    sourceNat: _n,
    watches: _w,
    ...settings
  } = device;
  return settings;
}

/** What the plan says of itself. */
export const planSettingsSchema = z.strictObject({
  name: z.string().min(1).max(200),
  description: z.string().max(10_000).optional(),
  assume: assumeSchema.optional(),
});
export type PlanSettings = z.output<typeof planSettingsSchema>;

export function planSettingsOf(plan: Plan): PlanSettings {
  const { name, description, assume } = plan;
  return {
    name,
    ...(description === undefined ? {} : { description }),
    ...(assume === undefined ? {} : { assume }),
  };
}

export type PlanCollectionName = keyof typeof planCollections;
export type DeviceCollectionName = keyof typeof deviceCollections;
