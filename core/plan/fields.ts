import "./zod-setup.ts";
import { z } from "zod";
import {
  formatAddress,
  formatPrefix,
  formatZonedAddress,
  hostBitsSet,
  type InterfaceAddress,
  networkOf,
  parseAddress,
  parseInterfaceAddress,
  parseZonedAddress,
  subnetAddressKind,
} from "../address/index.ts";

/** Text is quoted in messages; long text is cut so that a message stays readable. */
function quote(value: string): string {
  return `"${value.length > 60 ? `${value.slice(0, 60)}…` : value}"`;
}

export const idField = z
  .string()
  .regex(
    /^[a-z0-9][a-z0-9-]{0,62}$/,
    "an id consists of lower-case letters, digits and hyphens, starts with a letter or digit, and has at most 63 characters",
  );

export const nameField = z
  .string()
  .regex(
    /^[A-Za-z0-9][A-Za-z0-9._:/-]{0,62}$/,
    "a name consists of letters, digits and . _ : / -, starts with a letter or digit, and has at most 63 characters",
  );

export const labelField = z.string().max(200, "at most 200 characters");
export const noteField = z.string().max(2000, "at most 2000 characters");

/** An address in any text form; kept in canonical form. */
export const addressField = z.string().transform((text, ctx) => {
  const address = parseAddress(text);
  if (address) return formatAddress(address);
  ctx.addIssue({ code: "custom", message: `${quote(text)} is not an IPv4 or IPv6 address` });
  return z.NEVER;
});

/** The same, where a link-local address may name its interface: fe80::2%wan1 (RFC 4007). */
export const zonedAddressField = z.string().transform((text, ctx) => {
  const zoned = parseZonedAddress(text);
  if (zoned) return formatZonedAddress(zoned);
  ctx.addIssue({
    code: "custom",
    message: `${quote(text)} is not an IPv4 or IPv6 address; only an IPv6 link-local one names its interface, as fe80::2%wan1`,
  });
  return z.NEVER;
});

/** A hardware address (IEEE 802, 48 bits) with colons or hyphens; kept in lower case with colons. */
export const hardwareField = z.string().transform((text, ctx) => {
  const form = text.trim().toLowerCase().replaceAll("-", ":");
  if (/^([0-9a-f]{2}:){5}[0-9a-f]{2}$/.test(form)) return form;
  ctx.addIssue({
    code: "custom",
    message: `${quote(text)} is not a hardware address, such as 00:00:5e:00:53:0a`,
  });
  return z.NEVER;
});

function readWithLength(text: string, ctx: z.RefinementCtx, example: string): InterfaceAddress | null {
  const read = parseInterfaceAddress(text);
  if (read) return read;
  const [address, length] = text.split("/");
  const family = parseAddress(address)?.family;
  const message = !family
    ? `${quote(text)} is not an address with a prefix length, such as ${example}`
    : length === undefined
      ? `${quote(text)} lacks its prefix length, such as ${example}`
      : `${quote(text)} has the prefix length ${quote(length)}; it must be a whole number from 0 to ${family === 4 ? 32 : 128}`;
  ctx.addIssue({ code: "custom", message });
  return null;
}

/** A prefix without host bits; kept in canonical form. */
export const prefixField = z.string().transform((text, ctx) => {
  const read = readWithLength(text, ctx, "172.20.16.0/24");
  if (!read) return z.NEVER;
  if (hostBitsSet(read)) {
    const meant = formatPrefix({ address: networkOf(read.address, read.length), length: read.length });
    ctx.addIssue({ code: "custom", message: `${quote(text)} has host bits set; the prefix is ${meant}` });
    return z.NEVER;
  }
  return formatPrefix(read);
});

/** An interface's address with the length of its subnet; kept in canonical form. */
export const interfaceAddressField = z.string().transform((text, ctx) => {
  const read = readWithLength(text, ctx, "198.51.100.2/30");
  if (!read) return z.NEVER;
  const subnet = { address: networkOf(read.address, read.length), length: read.length };
  const kind = read.address.family === 4 ? subnetAddressKind(subnet, read.address) : null;
  if (kind) {
    ctx.addIssue({
      code: "custom",
      message: `${quote(text)} is the ${kind} address of ${formatPrefix(subnet)}; an interface needs an address inside it`,
    });
    return z.NEVER;
  }
  return formatPrefix(read);
});

/** Milliseconds: a whole number up to a day. */
export const millisecondsField = z.number().int("must be whole milliseconds").min(0).max(86_400_000);

export const distanceField = z
  .number()
  .int()
  .min(1, "a distance must be 1 to 255")
  .max(255, "a distance must be 1 to 255");
export const metricField = z.number().int().min(0).max(4_294_967_295);
export const protocolField = z.enum(["icmp", "tcp", "udp"]);
export const portField = z.number().int().min(1).max(65535);

/** "device/interface"; the first slash divides. */
export const endField = z
  .string()
  .regex(/^[a-z0-9][a-z0-9-]*\/\S+$/, "write the interface as device/interface, such as tern-edge/wan1");

/** The forms of element references, for error messages. */
export const ELEMENT_FORMS =
  "link:ID, link:ID@DEVICE (in the direction towards DEVICE only), interface:DEVICE/NAME, device:ID, watch:DEVICE/ID, risk:ID or site:NAME";

/** What can fail: link:ID, link:ID@DEVICE, interface:DEVICE/NAME, device:ID, watch:DEVICE/ID, risk:ID, site:NAME. */
export const elementField = z
  .string()
  .regex(
    /^(link:[^\s/]+|interface:[^\s/]+\/\S+|device:[^\s/]+|watch:[^\s/]+\/\S+|risk:[^\s/]+|site:[^\s/]+)$/,
    `write the element as ${ELEMENT_FORMS}`,
  );

/** Megabits a second (rule 19). */
export const capacityField = z.number().positive("more than 0 Mbit/s").max(1e7);
