import { z } from "zod";
import { addressField, millisecondsField, nameField, prefixField, zonedAddressField } from "./fields.ts";

const atLeastOne = z.number().int().min(1).max(1000);
const interval = millisecondsField.min(1, "at least 1 ms");

export const watchSchema = z.discriminatedUnion("kind", [
  z.strictObject({
    id: nameField,
    kind: z.literal("probe"),
    target: zonedAddressField,
    /** An interface of the device, or one of its addresses. */
    source: z.string().min(1).optional(),
    out: nameField.optional(),
    via: addressField.optional(),
    intervalMs: interval.default(10_000),
    timeoutMs: interval.default(1000),
    failAfter: atLeastOne.default(3),
    recoverAfter: atLeastOne.default(1),
  }),
  z.strictObject({
    id: nameField,
    kind: z.literal("bfd"),
    interface: nameField,
    peer: addressField,
    minTxMs: interval.default(300),
    minRxMs: interval.default(300),
    multiplier: z.number().int().min(1).max(255).default(3),
  }),
  z.strictObject({ id: nameField, kind: z.literal("interface"), interface: nameField }),
  /** Up while a route to this very prefix is in use (rule 9.7). */
  z.strictObject({ id: nameField, kind: z.literal("route"), to: prefixField, vrf: nameField.optional() }),
  z.strictObject({
    id: nameField,
    kind: z.literal("group"),
    need: z.union([z.enum(["any", "all"]), atLeastOne]),
    of: z.array(nameField).min(1, "a group needs at least one watch"),
    downDelayMs: millisecondsField.optional(),
    upDelayMs: millisecondsField.optional(),
  }),
]);

export type Watch = z.output<typeof watchSchema>;
export type Probe = Extract<Watch, { kind: "probe" }>;
export type BfdSession = Extract<Watch, { kind: "bfd" }>;
export type WatchGroup = Extract<Watch, { kind: "group" }>;
