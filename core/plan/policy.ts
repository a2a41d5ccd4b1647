import { z } from "zod";
import { addressField, nameField, prefixField, protocolField } from "./fields.ts";
import { staticRouteSchema } from "./route.ts";

export const policyTableSchema = z.strictObject({
  name: nameField,
  match: z
    .strictObject({ in: z.array(nameField).optional(), from: z.array(prefixField).optional() })
    .refine((match) => match.in !== undefined || match.from !== undefined, {
      message: "a policy table needs `in` (interfaces), `from` (source prefixes) or both",
    }),
  lookup: z.enum(["overlay", "first"]),
  routes: z.array(staticRouteSchema).default([]),
});

export type PolicyTable = z.output<typeof policyTableSchema>;

export const sourceNatSchema = z.strictObject({
  out: nameField,
  from: z.array(prefixField).optional(),
  to: z.union([z.literal("interface"), addressField]),
});

export type SourceNat = z.output<typeof sourceNatSchema>;

/** One port or a range of them: "443", "8000-8099". Numbers are read too. */
const portRangeField = z
  .union([z.string(), z.number()])
  .transform(String)
  .superRefine((text, ctx) => {
    const range = parsePortRange(text);
    if (!range) {
      ctx.addIssue({
        code: "custom",
        message: `"${text}" is not a port or a range of ports, such as 8000-8099`,
      });
    }
  });

/** The first and last port of "443" or "8000-8099"; null for anything else. */
export function parsePortRange(text: string): { first: number; last: number } | null {
  const match = /^(\d{1,5})(?:-(\d{1,5}))?$/.exec(text);
  if (!match) return null;
  const first = Number(match[1]);
  const last = Number(match[2] ?? match[1]);
  return first >= 1 && last <= 65535 && first <= last ? { first, last } : null;
}

const action = z.enum(["allow", "deny"]);

export const policyRuleSchema = z.strictObject({
  from: z.array(nameField).optional(),
  to: z.array(nameField).optional(),
  action,
  source: z.array(prefixField).optional(),
  destination: z.array(prefixField).optional(),
  protocol: protocolField.optional(),
  port: portRangeField.optional(),
});

export const policySchema = z.strictObject({
  default: action.optional(),
  sameZone: action.optional(),
  /** Zones, the most trusted first: a new flow passes from more to less trusted unless a rule says otherwise. */
  trust: z
    .array(nameField)
    .min(2, "an order of trust needs at least two zones")
    .refine((zones) => new Set(zones).size === zones.length, "a zone appears twice in the order of trust")
    .optional(),
  rules: z.array(policyRuleSchema).default([]),
});

export type Policy = z.output<typeof policySchema>;
export type PolicyRule = Policy["rules"][number];
