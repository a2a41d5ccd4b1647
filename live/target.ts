import { z } from "zod";
import { containsAddress, parseAddress, parsePrefix } from "../core/address/index.ts";

/** How a device is asked: by management tables (RFC 3416), RESTCONF (8040), NETCONF over SSH (6242), or a Linux shell. */
const ways = ["snmp-v2c", "snmp-v3", "restconf", "netconf", "ssh"] as const;
export const waySchema = z.enum(ways);
export type Way = z.output<typeof waySchema>;

/** The default port of each protocol. */
export const usualPort: Readonly<Record<Way, number>> = {
  "snmp-v2c": 161,
  "snmp-v3": 161,
  restconf: 443,
  netconf: 830,
  ssh: 22,
};

const word = z.string().min(1, "the field is empty").max(10_000);

/** What a device is asked with. Never shown again once it is kept, and never logged. */
export const secretSchema = z.discriminatedUnion("way", [
  z.strictObject({ way: z.literal("snmp-v2c"), community: word }),
  z.strictObject({
    way: z.literal("snmp-v3"),
    user: word,
    /** RFC 3414 and 7860: without a word for authentication nothing is authenticated, without one for privacy nothing hidden. */
    auth: z.enum(["sha", "sha224", "sha256", "sha384", "sha512"]).default("sha256"),
    authWord: z.string().max(10_000).default(""),
    privacyWord: z.string().max(10_000).default(""),
  }),
  z.strictObject({ way: z.literal("restconf"), user: word, password: word }),
  z.strictObject({
    way: z.enum(["netconf", "ssh"]),
    user: word,
    password: z.string().max(10_000).default(""),
    /** A private key as OpenSSH or PEM text; it stands before the password. */
    key: z.string().max(20_000).default(""),
  }),
]);
export type Secret = z.output<typeof secretSchema>;

/** A device that is asked, and where. `proof` is the SHA-256 of its host key or certificate, once that is confirmed. */
export interface Target {
  readonly device: string;
  readonly address: string;
  readonly port: number;
  readonly way: Way;
  readonly proof: string | null;
}

/** The prefixes of a list such as "10.0.0.0/8, 2001:db8::/32"; null if one is invalid. */
export function readAllowed(text: string): string[] | null {
  const words = text.split(/[\s,]+/).filter(Boolean);
  return words.every((one) => parsePrefix(one)) ? words : null;
}

/** Whether the operator allows an address to be asked: it lies in one of the prefixes. */
export function isAllowed(address: string, allowed: readonly string[]): boolean {
  const read = parseAddress(address);
  return (
    read !== null &&
    allowed.some((text) => {
      const prefix = parsePrefix(text);
      return prefix !== null && containsAddress(prefix, read);
    })
  );
}
