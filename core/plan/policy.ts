import { z } from "zod";
import { addressField, nameField, portField, prefixField, protocolField } from "./fields.ts";
import { staticRouteSchema } from "./route.ts";

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

/** What a packet must be like for a mark or a policy table: every field that is given, and any of its entries. */
const steeredFields = {
  /** Interfaces that it comes in by. */
  in: z.array(nameField).optional(),
  /** Its source and its destination. */
  from: z.array(prefixField).optional(),
  to: z.array(prefixField).optional(),
  protocol: protocolField.optional(),
  /** Its destination port. */
  port: portRangeField.optional(),
};

/** A mark that a packet can bear inside a device. */
const markField = z.number().int().min(1).max(4_294_967_295);

export const policyTableSchema = z.strictObject({
  name: nameField,
  match: z
    .strictObject({ ...steeredFields, mark: markField.optional() })
    .refine((match) => Object.values(match).some((value) => value !== undefined), {
      message:
        "a policy table needs something to match: `in` (interfaces), `from` or `to` (prefixes), `protocol`, `port` or `mark`",
    })
    .superRefine(needProtocol),
  lookup: z.enum(["overlay", "first"]),
  routes: z.array(staticRouteSchema).default([]),
});

export type PolicyTable = z.output<typeof policyTableSchema>;

/** A mark that packets get on arrival; the last rule that matches decides (rule 6.10). */
export const markSchema = z.strictObject({ set: markField, ...steeredFields }).superRefine(needProtocol);

export type MarkRule = z.output<typeof markSchema>;

function needProtocol(
  match: { protocol?: string | undefined; port?: string | undefined },
  ctx: z.RefinementCtx,
) {
  if (match.port !== undefined && (match.protocol === undefined || match.protocol === "icmp"))
    ctx.addIssue({ code: "custom", path: ["port"], message: "`port` needs `protocol` tcp or udp" });
}

export const sourceNatSchema = z.strictObject({
  out: nameField,
  from: z.array(prefixField).optional(),
  to: z.union([z.literal("interface"), addressField]),
});

export type SourceNat = z.output<typeof sourceNatSchema>;

/** Translation of the destination of new packets that arrive; the first that matches decides (rule 6.9). */
export const destinationNatSchema = z
  .strictObject({
    in: z.union([nameField, z.array(nameField).min(1)]),
    to: addressField,
    protocol: protocolField.optional(),
    port: portField.optional(),
    via: addressField,
    viaPort: portField.optional(),
  })
  .superRefine((nat, ctx) => {
    needProtocol(
      { protocol: nat.protocol, port: nat.port === undefined ? undefined : String(nat.port) },
      ctx,
    );
    if (nat.viaPort !== undefined && nat.port === undefined)
      ctx.addIssue({ code: "custom", path: ["viaPort"], message: "`viaPort` needs `port`" });
    if (nat.to.includes(":") !== nat.via.includes(":"))
      ctx.addIssue({
        code: "custom",
        path: ["via"],
        message: `${nat.to} and ${nat.via} have different address families`,
      });
  });

export type DestinationNat = z.output<typeof destinationNatSchema>;

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
