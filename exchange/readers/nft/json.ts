import { z } from "zod";
import { LocatedJson } from "../located.ts";
import type { Reader } from "../reader.ts";
import { takeRules } from "./meaning.ts";
import {
  addressIn,
  type Condition,
  fieldOfMeta,
  type NftRule,
  type PlacedRule,
  payloadConditions,
  VERDICTS,
} from "./rule.ts";

const chainSchema = z.looseObject({
  chain: z.looseObject({ table: z.string(), name: z.string(), hook: z.string().optional() }),
});
const ruleSchema = z.looseObject({
  rule: z.looseObject({ table: z.string(), chain: z.string(), expr: z.array(z.looseObject({})).default([]) }),
});
const matchSchema = z.looseObject({ op: z.string(), left: z.looseObject({}), right: z.unknown() });
const keySchema = z.looseObject({ key: z.string() });
const payloadSchema = z.looseObject({ protocol: z.string(), field: z.string() });

/** nftables' JSON: translation and marks. Filter rules are reported and left to the user. */
export const nftJson: Reader = {
  kind: "nftables JSON",
  recognises: ({ text }) => (/^\s*\{\s*"nftables"\s*:/.test(text) ? 0.95 : 0),
  read(file, into) {
    const json = LocatedJson.read(file, into);
    if (!json) return;
    const hooks = new Map<string, string>();
    const rules: PlacedRule[] = [];
    for (const element of json.elements(["nftables"])) {
      const at = { ...element, file: file.name };
      const chain = chainSchema.safeParse(element.value);
      if (chain.success && chain.data.chain.hook)
        hooks.set(`${chain.data.chain.table} ${chain.data.chain.name}`, chain.data.chain.hook);
      const read = ruleSchema.safeParse(element.value);
      if (!read.success) into.fate(at, "known", "a table or chain, not a rule");
      else {
        const { table, chain: name, expr } = read.data.rule;
        rules.push({ at, hook: hooks.get(`${table} ${name}`) ?? null, ...ruleOfJson(expr) });
      }
    }
    takeRules(rules, into);
  },
};

function ruleOfJson(expressions: readonly Record<string, unknown>[]): NftRule {
  const rule: NftRule = { conditions: [], action: null, ends: false };
  for (const expression of expressions) {
    for (const [kind, value] of Object.entries(expression)) {
      const target = value as {
        addr?: unknown;
        port?: unknown;
        key?: { meta?: unknown };
        value?: unknown;
      } | null;
      if (kind === "match") rule.conditions.push(...conditionsOfJson(value));
      else if (kind === "masquerade") rule.action = { kind: "source", to: "interface" };
      else if (kind === "snat") rule.action = { kind: "source", to: addressIn(target?.addr) };
      else if (kind === "dnat") {
        const port = typeof target?.port === "number" ? { port: target.port } : {};
        rule.action = { kind: "destination", to: addressIn(target?.addr), ...port };
      } else if (kind === "mangle" && keySchema.safeParse(target?.key?.meta).data?.key === "mark")
        rule.action = { kind: "mark", set: typeof target?.value === "number" ? target.value : null };
      else if (VERDICTS.has(kind)) rule.ends = true;
    }
  }
  return rule;
}

function conditionsOfJson(value: unknown): Condition[] {
  const match = matchSchema.safeParse(value);
  if (!match.success) return [{ field: "other", values: [] }];
  const { op, left, right } = match.data;
  const values = valuesOf(right);
  if ((op !== "==" && op !== "in") || values === null) return [{ field: "other", values: [] }];
  const meta = keySchema.safeParse(left.meta);
  if (meta.success) return [{ field: fieldOfMeta[meta.data.key] ?? "other", values }];
  const tracked = keySchema.safeParse(left.ct);
  if (tracked.success) return [{ field: tracked.data.key === "direction" ? "direction" : "other", values }];
  const payload = payloadSchema.safeParse(left.payload);
  if (payload.success) return payloadConditions(payload.data.protocol, payload.data.field, values);
  return [{ field: "other", values }];
}

/** The right side of a condition as text would have it; null where text would have more than values. */
function valuesOf(right: unknown): string[] | null {
  const { set, prefix, range } = (typeof right === "object" && right ? right : {}) as Record<string, unknown>;
  if (Array.isArray(set)) {
    const members = set.map(valuesOf);
    return members.every((member) => member !== null) ? members.flat() : null;
  }
  const { addr, len } = (prefix ?? {}) as Record<string, unknown>;
  if (typeof addr === "string" && typeof len === "number") return [`${addr}/${len}`];
  if (Array.isArray(range) && range.length === 2) return [range.join("-")];
  return typeof right === "string" || typeof right === "number" ? [String(right)] : null;
}
