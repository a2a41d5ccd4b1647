import {
  containsAddress,
  containsPrefix,
  formatAddress,
  formatPrefix,
  lengthOfMask,
  makeAddress,
  type Prefix,
  parseAddress,
  parseInterfaceAddress,
  parsePrefix,
  prefixOf,
  sameAddress,
  widthOf,
} from "../../core/address/index.ts";
import type { Collector } from "../facts/index.ts";
import { firstLines, type InputFile, linesOf, type Reader } from "./reader.ts";

/** Identifiers of the Internet's and LLDP's objects. */
const OID = /^(?:1\.3\.6\.1|1\.0\.8802)(?:\.\d+)+$/;
/** The type of a value, written before it. */
const TYPE = /^[a-z0-9-]{1,40}(?: string| integer)?$/i;

/** A line of a walk: an identifier, an equals sign, a value with or without its type; null for any other. */
function objectIn(line: string): { oid: string; type: string; value: string } | null {
  const at = line.indexOf("=");
  if (at < 0) return null;
  const oid = line.slice(0, at).trim().replace(/^\./, "");
  if (!OID.test(oid)) return null;
  const told = line.slice(at + 1).trimStart();
  const colon = told.indexOf(":");
  const type = colon < 0 ? "" : told.slice(0, colon);
  return TYPE.test(type)
    ? { oid, type, value: told.slice(colon + 1).trimStart() }
    : { oid, type: "", value: told };
}

/** Tables and the columns of them that are read, by their object identifiers. */
const tables: Readonly<Record<string, string>> = {
  "1.3.6.1.2.1.1.5": "sysName",
  "1.3.6.1.2.1.2.2.1.2": "ifDescr",
  "1.3.6.1.2.1.2.2.1.3": "ifType",
  "1.3.6.1.2.1.2.2.1.6": "ifPhysAddress",
  "1.3.6.1.2.1.2.2.1.7": "ifAdminStatus",
  "1.3.6.1.2.1.2.2.1.8": "ifOperStatus",
  "1.3.6.1.2.1.31.1.1.1.1": "ifName",
  "1.3.6.1.2.1.31.1.1.1.15": "ifHighSpeed",
  "1.3.6.1.2.1.4.1": "ipForwarding",
  "1.3.6.1.2.1.4.25": "ipv6IpForwarding",
  "1.3.6.1.2.1.4.20.1.2": "ipAdEntIfIndex",
  "1.3.6.1.2.1.4.20.1.3": "ipAdEntNetMask",
  "1.3.6.1.2.1.4.34.1.3": "ipAddressIfIndex",
  "1.3.6.1.2.1.4.34.1.5": "ipAddressPrefix",
  "1.3.6.1.2.1.4.22.1.2": "ipNetToMediaPhysAddress",
  "1.3.6.1.2.1.4.35.1.4": "ipNetToPhysicalPhysAddress",
  "1.3.6.1.2.1.4.24.7.1.7": "inetCidrRouteIfIndex",
  "1.3.6.1.2.1.4.24.7.1.8": "inetCidrRouteType",
  "1.3.6.1.2.1.4.24.7.1.9": "inetCidrRouteProto",
  "1.3.6.1.2.1.4.24.7.1.12": "inetCidrRouteMetric1",
  "1.0.8802.1.1.2.1.4.1.1.5": "lldpRemChassisId",
  "1.0.8802.1.1.2.1.4.1.1.6": "lldpRemPortIdSubtype",
  "1.0.8802.1.1.2.1.4.1.1.7": "lldpRemPortId",
  "1.0.8802.1.1.2.1.4.1.1.8": "lldpRemPortDesc",
  "1.0.8802.1.1.2.1.4.1.1.9": "lldpRemSysName",
  "1.0.8802.1.1.2.1.3.7.1.2": "lldpLocPortIdSubtype",
  "1.0.8802.1.1.2.1.3.7.1.3": "lldpLocPortId",
  "1.0.8802.1.1.2.1.3.7.1.4": "lldpLocPortDesc",
};
const byLength = Object.entries(tables).sort(([a], [b]) => b.length - a.length);

/** What a live walk asks for: every column that is read. */
export const walked: readonly string[] = Object.keys(tables);

/** IANAipRouteProtocol, as far as they are distinguished. */
const protocols: Readonly<Record<number, string>> = {
  2: "connected",
  3: "static",
  8: "rip",
  9: "isis",
  13: "ospf",
  14: "bgp",
};

/** What every interface of its kind has: it tells nothing of the network. */
const ofEveryInterface = ["fe80::/10", "ff00::/8", "127.0.0.0/8", "224.0.0.0/4", "::1/128"].flatMap(
  (text) => parsePrefix(text) ?? [],
);

/** A saved numeric walk of management tables: RFC 2863, 4293, 4292 and IEEE 802.1AB. */
export const numericWalk: Reader = {
  kind: "numeric walk",
  recognises({ text }) {
    const lines = firstLines(text, 40);
    const own = lines.filter((line) => objectIn(line) !== null);
    return lines.length > 0 && own.length / lines.length > 0.6 ? 0.95 : 0;
  },
  read: (file, into) => new Walk(into).read(file),
};

class Walk {
  /** Values by column and index. */
  private readonly columns = new Map<string, Map<string, string>>();

  constructor(private readonly into: Collector) {}

  read(file: InputFile) {
    const { name } = file;
    for (const [i, raw] of linesOf(file, this.into).entries()) {
      if (raw.trim() === "") continue;
      const at = { file: name, line: i + 1, text: raw };
      const found = objectIn(raw);
      if (!found) {
        this.into.fate(
          at,
          "not-understood",
          "not a walk object: expected a number, an equals sign and a value",
        );
        continue;
      }
      const { oid, type, value } = found;
      const entry = byLength.find(([root]) => oid === root || oid.startsWith(`${root}.`));
      if (!entry) {
        this.into.fate(at, "known", "an object that is not used");
        continue;
      }
      const [root, column] = entry;
      const values = this.columns.get(column) ?? new Map<string, string>();
      this.columns.set(column, values);
      values.set(oid.slice(root.length + 1), told(type, value));
      this.into.fate(at, "taken", column);
    }
    this.settle();
  }

  private settle() {
    const [name] = this.all("sysName");
    if (name) this.into.told ??= name[1];
    for (const [index] of new Map([...this.all("ifDescr"), ...this.all("ifName")])) this.takeInterface(index);
    for (const [index, port] of this.all("ipAdEntIfIndex")) {
      const length = lengthOfMask(this.value("ipAdEntNetMask", index) ?? "");
      this.takeAddress(port, length === null || !parseAddress(index) ? null : `${index}/${length}`);
    }
    for (const [index, port] of this.all("ipAddressIfIndex")) this.takeAddress(port, this.addressOf(index));
    for (const column of ["ipNetToMediaPhysAddress", "ipNetToPhysicalPhysAddress"]) {
      for (const [index, hardware] of this.all(column)) this.takeNeighbour(index, hardware);
    }
    for (const [index, port] of this.all("inetCidrRouteIfIndex")) this.takeRoute(index, port);
    this.into.settleByMetric();
    const heard = [...this.all("lldpRemSysName"), ...this.all("lldpRemChassisId")];
    for (const index of new Set(heard.map(([at]) => at))) this.takeAdjacency(index);
    const { forwarding } = this.into.facts;
    forwarding.ipv4 = onOff(this.value("ipForwarding", "0")) ?? forwarding.ipv4;
    forwarding.ipv6 = onOff(this.value("ipv6IpForwarding", "0")) ?? forwarding.ipv6;
  }

  private all(column: string): [string, string][] {
    return [...(this.columns.get(column) ?? [])];
  }

  private value(column: string, index: string): string | null {
    return this.columns.get(column)?.get(index) ?? null;
  }

  private portName(index: string): string | null {
    return this.value("ifName", index) || this.value("ifDescr", index);
  }

  private takeInterface(index: string) {
    const name = this.portName(index);
    if (!name) return;
    const type = this.value("ifType", index);
    const speed = this.value("ifHighSpeed", index);
    const kinds: Readonly<Record<string, "ethernet" | "loopback" | "tunnel" | "serial">> = {
      "6": "ethernet",
      "23": "serial",
      "24": "loopback",
      "131": "tunnel",
    };
    this.into.interface(name, {
      kind: (type !== null && kinds[type]) || null,
      enabled: onOff(this.value("ifAdminStatus", index)),
      up: onOff(this.value("ifOperStatus", index)),
      hardware: hardwareOf(this.value("ifPhysAddress", index)),
      mbps: speed === null || speed === "0" ? null : Number(speed),
    });
  }

  /** RFC 4293: the prefix's row names its length as the last number of its identifier. */
  private addressOf(index: string): string | null {
    const read = indexedAddress(index.split(".").map(Number));
    const row = this.value("ipAddressPrefix", index);
    const length = row?.split(".").at(-1);
    return read && length !== undefined && /^\d+$/.test(length) ? `${read.text}/${length}` : null;
  }

  private takeAddress(port: string, address: string | null) {
    const name = this.portName(port);
    if (name && address && !address.startsWith("127.") && address !== "::1/128")
      this.into.interface(name, { addresses: [address] });
  }

  private takeNeighbour(index: string, hardware: string) {
    const [port, ...rest] = index.split(".").map(Number);
    const name = this.portName(String(port));
    const plain = rest.length === 4 ? rest.join(".") : (indexedAddress(rest)?.text ?? null);
    const at = hardwareOf(hardware);
    if (name && plain && at) this.into.add("neighbours", { address: plain, hardware: at, interface: name });
  }

  /** RFC 4292: destination, its length, a policy, and the next hop stand in the row's index. */
  private takeRoute(index: string, port: string) {
    const numbers = index.split(".").map(Number);
    const destination = indexedAddress(numbers);
    if (!destination) return;
    const length = numbers[destination.used];
    const policy = numbers[destination.used + 1];
    const hop = indexedAddress(numbers.slice(destination.used + 2 + policy));
    const prefix = parsePrefix(`${destination.text}/${length}`);
    if (!prefix) return;
    const type = this.value("inetCidrRouteType", index);
    if (ofEveryInterface.some((entry) => containsPrefix(entry, prefix)) || this.isAnycast(prefix)) return;
    const via = hop === null || hop.text === "0.0.0.0" || hop.text === "::" ? null : hop.text;
    // Some agents report discarded routes as routes without an interface.
    const nowhere = via === null && port === "0";
    const discard = type === "5" || nowhere ? ("drop" as const) : type === "2" ? ("reject" as const) : null;
    const out = discard ? null : this.portName(port);
    const metric = Number(this.value("inetCidrRouteMetric1", index) ?? -1);
    const protocol = Number(this.value("inetCidrRouteProto", index));
    this.into.route({
      to: formatPrefix(prefix),
      via,
      out,
      vrf: "main",
      table: null,
      source: discard ? "static" : this.sourceOf(type, protocol, via, out, prefix),
      distance: null,
      metric: metric < 0 ? null : metric,
      // Routes in the table are active (RFC 4292, section 4), or standby with a higher metric.
      active: true,
      discard,
    });
  }

  /** The anycast address of all routers in a subnet (RFC 4291, 2.6.1), which is never configured. */
  private isAnycast({ address, length }: Prefix): boolean {
    return (
      address.family === 6 &&
      length === 128 &&
      this.networks().some((own) => own.length < 128 && sameAddress(own.address, address))
    );
  }

  private networks(): Prefix[] {
    return this.into.facts.interfaces.flatMap(({ addresses }) =>
      addresses.flatMap((text) => {
        const read = parseInterfaceAddress(text);
        return read ? [prefixOf(read.address, read.length)] : [];
      }),
    );
  }

  /** A route's source. Some agents report "local" for every route of the system: with a next hop it means nothing;
   * without one the network is connected, or static if no interface address is in it. */
  private sourceOf(
    type: string | null,
    protocol: number,
    via: string | null,
    out: string | null,
    prefix: Prefix,
  ) {
    if (type !== "3" && protocol !== 2) return protocols[protocol] ?? null;
    if (via !== null) return null;
    const own = this.into.facts.interfaces.find(({ name }) => name === out)?.addresses ?? [];
    const read = own.flatMap((text) => parseInterfaceAddress(text) ?? []);
    if (
      read.some(({ address }) => sameAddress(address, prefix.address)) &&
      prefix.length === widthOf(prefix.address.family)
    )
      return "local";
    const attached = read.length === 0 || read.some(({ address }) => containsAddress(prefix, address));
    return attached ? "connected" : "static";
  }

  /** IEEE 802.1AB: a neighbor row is indexed by time, port number and its own number. */
  private takeAdjacency(index: string) {
    const [, local] = index.split(".");
    const own = this.portCalled("lldpLoc", local) ?? this.portName(local);
    if (!own) return;
    const name = this.value("lldpRemSysName", index) || null;
    const hardware = hardwareOf(this.value("lldpRemChassisId", index));
    this.into.add("adjacent", { interface: own, name, port: this.portCalled("lldpRem", index), hardware });
  }

  /** A port's name: its id where that is a name (subtypes 5 and 7), else what describes it. */
  private portCalled(side: "lldpLoc" | "lldpRem", index: string): string | null {
    const id = this.value(`${side}PortId`, index);
    const subtype = this.value(`${side}PortIdSubtype`, index);
    const isName =
      subtype === null ? hardwareOf(id) === null : subtype === "5" || subtype === "7" || subtype === "1";
    return (isName && id) || this.value(`${side}PortDesc`, index) || null;
  }
}

/** An address that begins an index: its kind, its length and its octets (RFC 4001). */
function indexedAddress(numbers: readonly number[]): { text: string; used: number } | null {
  const [kind, size] = numbers;
  const octets = numbers.slice(2, 2 + size);
  if (octets.length !== size || octets.some((n) => !Number.isInteger(n) || n < 0 || n > 255)) return null;
  if (kind === 1 && size === 4) return { text: octets.join("."), used: 6 };
  // Kind 4 is an IPv6 address with its zone behind it.
  if ((kind === 2 && size === 16) || (kind === 4 && size === 20)) {
    const word = (i: number) =>
      ((octets[i] << 24) | (octets[i + 1] << 16) | (octets[i + 2] << 8) | octets[i + 3]) >>> 0;
    return { text: formatAddress(makeAddress(6, word(0), word(4), word(8), word(12))), used: 2 + size };
  }
  return null;
}

function told(type: string, value: string): string {
  const text = value.trim().replace(/^"([\s\S]*)"$/, "$1");
  // An enumeration may be its word with the number in brackets.
  if (/^integer$/i.test(type)) return /\((\d+)\)/.exec(text)?.[1] ?? text;
  return text.replace(/^\.(?=\d)/, "");
}

function hardwareOf(value: string | null): string | null {
  const parts = (value ?? "")
    .trim()
    .split(/[\s:.-]+/)
    .filter(Boolean);
  const sound = parts.length === 6 && parts.every((part) => /^[0-9a-f]{1,2}$/i.test(part));
  return sound ? parts.map((part) => part.padStart(2, "0").toLowerCase()).join(":") : null;
}

const onOff = (value: string | null) => (value === "1" ? true : value === "2" ? false : null);
