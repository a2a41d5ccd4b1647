import {
  formatAddress,
  formatPrefix,
  type InterfaceAddress,
  parseAddress,
  parseInterfaceAddress,
  parsePrefix,
} from "../../../core/address/index.ts";
import type { Collector, RouteFact } from "../../facts/index.ts";
import type { Located } from "./emit.ts";
import { indentOf } from "./segments.ts";
import { lengthOfAnyMask, looksLikeInterface, readPrefix } from "./tokens.ts";

/** Words of a configured route that say nothing about where it leads, each with a value. */
const SKIPPED = /^(?:name|description|comment|remark|label|tag|weight|track|community|color|bfd|id)$/i;
const DISCARDS: Readonly<Record<string, "drop" | "reject">> = {
  discard: "drop",
  blackhole: "drop",
  null: "drop",
  null0: "drop",
  drop: "drop",
  reject: "reject",
  unreachable: "reject",
  prohibit: "reject",
};
const ADDRESS_KEY = /^(?:address|ip|ipv4|ipv6|inet|inet6|ip-address|ipv4-address|ipv6-address)$/i;

/** Lines that only interface blocks of a configuration have. */
const IN_BLOCK =
  /^\s{1,40}(?:(?:ip|ipv6|inet|inet6)\s+address\s|no\s+shutdown\s*$|shutdown\s*$|disable;?\s*$|encapsulation\s|vrf\s+(?:forwarding|member)\s)/i;

/**
 * Reads configuration lines: in blocks (indented, or between braces) and in paths. Only what is unmistakable is taken:
 * addresses, state, VRF and VLAN of interfaces, static routes, and default gateways. Other lines are left to the caller.
 */
export class ConfigReading {
  /** The words of the open braces. */
  private readonly path: string[][] = [];
  /** The interface whose indented block is read, and the indentation of its heading. */
  private block: { port: string; indent: number } | null = null;

  /** Whether the text has interface blocks, and not only headings that name interfaces. */
  private readonly hasBlocks: boolean;

  constructor(
    lines: readonly string[],
    private readonly into: Collector,
  ) {
    this.hasBlocks = lines.some((line) => IN_BLOCK.test(line));
  }

  /** Takes a line; false if it is no configuration that is read. */
  take(at: Located): boolean {
    const text = at.text.trim();
    const indent = indentOf(at.text);
    if (this.block && indent <= this.block.indent && text !== "") this.block = null;
    if (/^[}\]]+;?$/.test(text) && this.path.length > 0) {
      this.path.pop();
      return this.ignore(at);
    }
    if (text.endsWith("{") && !/[|=]/.test(text)) {
      this.path.push(wordsOf(text.slice(0, -1)));
      return this.ignore(at);
    }
    const words = [...this.path.flat(), ...wordsOf(text)];
    const heading = /^interface\s+(\S{1,64}(?:\s\d\S{0,20})?)$/i.exec(text);
    if (heading && this.hasBlocks && this.path.length === 0) {
      const port = heading[1].replace(/\s/, "");
      this.block = { port, indent };
      this.into.interface(port, {});
      this.into.fate(at, "taken", `the interface ${port}`);
      return true;
    }
    if (this.block) return this.takeOfInterface(at, this.block.port, words);
    const named = words.findIndex((word) => /^interfaces?$/i.test(word));
    const isPath = this.path.length > 0 || /^set$/i.test(words[0] ?? "");
    if (isPath && named >= 0 && words.length > named + 2 && !words.some((word) => /^routes?$/i.test(word))) {
      const port = words
        .slice(named + 1)
        .find(
          (word) =>
            looksLikeInterface(word) || !/^(?:ethernet|ethernets|loopback|vlan|bond|bonding)$/i.test(word),
        );
      if (port) return this.takeOfInterface(at, port, words.slice(words.indexOf(port, named + 1) + 1));
    }
    return this.takeRoute(at, words);
  }

  private ignore(at: Located): true {
    this.into.fate(at, "known", "configuration that is not read");
    return true;
  }

  private takeOfInterface(at: Located, port: string, words: readonly string[]): boolean {
    const [first = "", second = ""] = words;
    const found = words.findIndex((_, i) => addressAt(words, i) !== null);
    if (
      found >= 0 &&
      words.slice(0, found).some((word) => ADDRESS_KEY.test(word)) &&
      !/dhcp|helper|relay|virtual|vrrp|server/i.test(words.slice(0, found).join(" "))
    ) {
      const text = formatPrefix(addressAt(words, found) as InterfaceAddress);
      this.into.interface(port, { addresses: [text] });
      this.into.fate(at, "taken", `the interface ${port} with ${text}`);
      return true;
    }
    if (/^(?:shutdown|disabled?)$/i.test(first))
      return this.takeFact(at, port, { enabled: false }, "disabled");
    if (/^no$/i.test(first) && /^shutdown$/i.test(second))
      return this.takeFact(at, port, { enabled: true }, "enabled");
    const vrf = words.findIndex((word) => /^vrf$/i.test(word));
    const name = words.slice(vrf + 1).find((word) => !/^(?:forwarding|member|name)$/i.test(word));
    if (vrf >= 0 && vrf <= 1 && name) return this.takeFact(at, port, { vrf: name }, `in VRF ${name}`);
    const tag = /^(?:encapsulation dot1q|vlan(?:[- ]id)?|tag)\s(\d{1,4})$/i.exec(words.join(" "));
    if (tag) return this.takeFact(at, port, { vlan: Number(tag[1]) }, `tag ${tag[1]}`);
    return this.ignore(at);
  }

  private takeFact(
    at: Located,
    port: string,
    fact: Parameters<Collector["interface"]>[1],
    what: string,
  ): true {
    this.into.interface(port, fact);
    this.into.fate(at, "taken", `the interface ${port}: ${what}`);
    return true;
  }

  /** A static route or a default gateway; false for other lines. */
  private takeRoute(at: Located, words: readonly string[]): boolean {
    const lower = words.map((word) => word.toLowerCase());
    const gateway = lower.findIndex((word) =>
      /^(?:default-gateway|defaultrouter|default-router)$/.test(word),
    );
    if (
      /^(?:no|delete)$/.test(lower[0] ?? "") &&
      lower.slice(1, 6).some((word) => /^(?:static-)?routes?$/.test(word))
    )
      return this.ignore(at);
    const isDefault = gateway >= 0 && gateway <= 2 && words.length <= gateway + 2;
    const key = lower.findIndex((word) => /^(?:route|routes|static-route|static-routes|static)$/.test(word));
    const isRoute =
      key >= 0 &&
      key <= 6 &&
      lower
        .slice(0, key + 1)
        .some((word) => /^(?:ip|ipv6|static|set|add|route|static-route|routing)$/.test(word)) &&
      !/^(?:no|delete|show|router|network)$/.test(lower[0]);
    const gatewayAddress = isDefault ? parseAddress(words[gateway + 1] ?? "") : null;
    if (gatewayAddress) {
      const via = formatAddress(gatewayAddress);
      return this.addRoute(at, { to: via.includes(":") ? "::/0" : "0.0.0.0/0", via }, null);
    }
    // A row of a table may have the word "static" as well: a configured line says what it is.
    const isCommand =
      /^(?:ip|ipv6|set|add|static-route)$/.test(lower[0] ?? "") ||
      (lower[0] === "route" && /^(?:add|static|-net|-host)$/.test(lower[1] ?? ""));
    const isConfigured = isRoute && (this.path.length > 0 || isCommand) && words.length > key + 1;
    return isConfigured && this.readRoute(at, words.slice(key + 1));
  }

  private readRoute(at: Located, words: readonly string[]): boolean {
    const route: { -readonly [K in keyof RouteFact]?: RouteFact[K] } & { to?: string } = {};
    let assumed: string | null = null;
    for (let i = 0; i < words.length; i++) {
      const word = words[i];
      const lower = word.toLowerCase();
      if (route.to === undefined) {
        const read = addressAt(words, i);
        if (read) {
          route.to = formatPrefix(read);
          if (!parsePrefix(route.to)) return this.refuse(at, `${word} has host bits set`);
          if (!readPrefix(word)) i++;
        } else if (lower === "default") route.to = "default";
        else if (lower === "vrf") route.vrf = words[++i];
        continue;
      }
      const address = parseAddress(word.split("%")[0]);
      if (address && route.via === undefined) {
        route.via = formatAddress(address);
        if (word.includes("%")) route.out = word.split("%")[1];
      } else if (DISCARDS[lower]) route.discard = DISCARDS[lower];
      else if (/^(?:distance|preference|pref|ad|administrative-distance)$/.test(lower))
        route.distance = numberIn(words[++i]);
      else if (/^(?:metric|cost)$/.test(lower)) route.metric = numberIn(words[++i]);
      else if (lower === "vrf") route.vrf = words[++i];
      else if (/^(?:interface|dev|out|oif|via-interface|egress)$/.test(lower)) route.out = words[++i];
      else if (SKIPPED.test(lower)) i++;
      else if (
        /^\d{1,3}$/.test(word) &&
        (route.via !== undefined || route.out !== undefined) &&
        route.distance === undefined
      ) {
        route.distance = Number(word);
        assumed = `${word} assumed to be the distance`;
      } else if (looksLikeInterface(word) || this.into.hasInterface(word)) route.out ??= word;
      else if (/^(?:disabled?)$/.test(lower)) return this.ignore(at);
    }
    if (route.to === undefined || (route.via === undefined && route.out === undefined && !route.discard))
      return false;
    const to = route.to === "default" ? (route.via?.includes(":") ? "::/0" : "0.0.0.0/0") : route.to;
    return this.addRoute(at, { ...route, to }, assumed);
  }

  private refuse(at: Located, why: string): true {
    this.into.fate(at, "not-understood", why);
    return true;
  }

  private addRoute(at: Located, route: Partial<RouteFact> & { to: string }, assumed: string | null): true {
    const fact: RouteFact = {
      via: null,
      vrf: "main",
      table: null,
      source: "static",
      distance: null,
      metric: null,
      active: null,
      discard: null,
      ...route,
      out: route.discard ? null : (route.out ?? null),
    };
    const what = `a route to ${fact.to}${fact.via ? ` via ${fact.via}` : ""}${fact.out ? ` out ${fact.out}` : ""}, static`;
    if (!this.into.route(fact)) this.into.fate(at, "known", `${what}: already listed`);
    else if (assumed) this.into.fate(at, "doubtful", `${what}; ${assumed}`);
    else this.into.fate(at, "taken", what);
    return true;
  }
}

/** The address with its length at a place: in one word, or with a mask behind it; null for other words. */
function addressAt(words: readonly string[], i: number): InterfaceAddress | null {
  const length = parseAddress(words[i]) ? lengthOfAnyMask(words[i + 1] ?? "") : null;
  return readPrefix(words[i]) ?? (length === null ? null : parseInterfaceAddress(`${words[i]}/${length}`));
}

const numberIn = (word: string | undefined) =>
  word !== undefined && /^\d{1,9}$/.test(word) ? Number(word) : null;

/** The words of a line, without the marks at their ends. */
const wordsOf = (text: string) =>
  text
    .split(/[\s=]+/)
    .map((word) => word.replace(/[;,]$/, "").replace(/^["']|["']$/g, ""))
    .filter((word) => word !== "");
