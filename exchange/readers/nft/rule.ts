import { parseAddress } from "../../../core/address/index.ts";

/** What a condition of a rule looks at; "other" is what a plan has no field for. */
export type Field = "in" | "out" | "from" | "to" | "protocol" | "port" | "family" | "direction" | "other";

export interface Condition {
  readonly field: Field;
  readonly values: readonly string[];
}

/** What a rule does with a packet that meets its conditions, as far as a plan has a word for it. */
export type Action =
  | { readonly kind: "source"; readonly to: string | null }
  | { readonly kind: "destination"; readonly to: string | null; readonly port?: number }
  | { readonly kind: "mark"; readonly set: number | null };

/** A rule of nftables, read from its text or its JSON. */
export interface NftRule {
  readonly conditions: Condition[];
  action: Action | null;
  /** It accepts, drops or leads elsewhere. */
  ends: boolean;
}

export interface PlacedRule extends NftRule {
  readonly at: { file: string; line: number; text: string };
  /** The hook of its chain; null where the text does not say. */
  readonly hook: string | null;
}

export const VERDICTS: ReadonlySet<string> = new Set([
  "accept",
  "drop",
  "reject",
  "jump",
  "goto",
  "return",
  "queue",
]);

/** The fields of a plan, by the words with which both forms of nftables name them. */
export const fieldOfMeta: Record<string, Field> = {
  iifname: "in",
  iif: "in",
  oifname: "out",
  oif: "out",
  nfproto: "family",
  l4proto: "protocol",
};
const fieldOfPayload: Record<string, Field> = {
  saddr: "from",
  daddr: "to",
  dport: "port",
  protocol: "protocol",
  nexthdr: "protocol",
};

/** Of a payload field the conditions that it states: a port states its protocol too. */
export function payloadConditions(protocol: string, name: string, values: readonly string[]): Condition[] {
  const field = fieldOfPayload[name] ?? "other";
  const isAddress = field === "from" || field === "to";
  if (isAddress && protocol !== "ip" && protocol !== "ip6") return [{ field: "other", values }];
  const service: Condition[] = field === "port" ? [{ field: "protocol", values: [protocol] }] : [];
  return [...service, { field, values }];
}

export function addressIn(text: unknown): string | null {
  return typeof text === "string" && parseAddress(text) ? text : null;
}
