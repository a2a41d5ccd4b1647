import type { Collector } from "../../facts/index.ts";
import { firstLines, type InputFile, linesOf, type Reader } from "../reader.ts";
import { promptIn } from "../text/segments.ts";
import { settleMasters, takeLink } from "./link.ts";
import { takeNeighbour, takeRule } from "./others.ts";
import { takeRoute } from "./route.ts";

const LINK = /^\d+: ([^\s:@]+)(?:@(\S+))?: <([^>]*)>(.*)$/;
const RULE = /^(\d+):\s+(not )?from (\S+)( .*)?$/;
const STATES = ["REACHABLE", "STALE", "DELAY", "PROBE", "PERMANENT", "NOARP", "FAILED", "INCOMPLETE"];
const ROUTE =
  /^(?:(unicast|local|broadcast|multicast|anycast|blackhole|unreachable|prohibit|throw) )?(default|[\da-f:.]+[\da-f:](?:\/\d+)?)( .*)?$/i;

/** A neighbour's line: "192.0.2.1 dev eth0 lladdr 00:00:5e:00:53:01 REACHABLE"; null for any other. */
function neighbourIn(line: string) {
  const [dst, mark, dev, ...rest] = line.trim().split(/\s+/);
  const state = rest.findLast((word) => STATES.includes(word));
  if (mark !== "dev" || dev === undefined || state === undefined) return null;
  return { dst, dev, lladdr: rest[0] === "lladdr" ? rest[1] : undefined, state: [state] };
}

/** The words of a line as pairs: "dev eth0 proto static metric 5"; words without a value are flags. */
function wordsOf(text: string, flags: readonly string[]) {
  const pairs = new Map<string, string>();
  const alone: string[] = [];
  const words = text.trim().split(/\s+/).filter(Boolean);
  for (let i = 0; i < words.length; i++) {
    if (flags.includes(words[i]) || i + 1 === words.length) alone.push(words[i]);
    else if (words[i] === "via" && /^inet6?$/.test(words[i + 1])) {
      pairs.set("via", words[i + 2] ?? "");
      i += 2;
    } else pairs.set(words[i], words[++i]);
  }
  return { pairs, alone };
}

const routeFlags = ["onlink", "linkdown", "dead", "pervasive", "offload", "trap", "notify"];

function hopOf(text: string) {
  const { pairs, alone } = wordsOf(text, routeFlags);
  const weight = numberIn(pairs.get("weight"));
  return { pairs, hop: { gateway: pairs.get("via"), dev: pairs.get("dev"), weight, flags: alone } };
}

/** An interface of `ip address` in text, as its JSON would have it; the lines under its head are read one by one. */
function readLinks(file: InputFile, lines: readonly string[], into: Collector) {
  let open: { at: { file: string; line: number; text: string }; value: Record<string, unknown> } | null =
    null;
  const close = () => {
    if (open) takeLink(open.value, { ...open.at, value: open.value }, into);
    open = null;
  };
  for (const [i, raw] of lines.entries()) {
    const at = { file: file.name, line: i + 1, text: raw };
    const text = raw.trim();
    if (text === "") continue;
    const head = LINK.exec(raw);
    if (head) {
      close();
      const { pairs } = wordsOf(head[4], []);
      const [, ifname, link, flags] = head;
      open = {
        at,
        value: { ifname, link, flags: flags.split(","), master: pairs.get("master"), addr_info: [] },
      };
      continue;
    }
    if (!open) {
      into.fate(at, "not-understood", "no interface above this line");
      continue;
    }
    const { value } = open as { value: Record<string, unknown> };
    const [first, second = "", third] = text.split(/\s+/);
    if (first.startsWith("link/")) {
      Object.assign(value, { link_type: first.slice("link/".length), address: second || undefined });
      into.fate(at, "known", "read with its interface");
    } else if (first === "inet" || first === "inet6") {
      const peer = third === "peer" ? (text.split(/\s+/)[3] ?? null) : null;
      const [local, length] = peer ? [second, peer.split("/")[1]] : second.split("/");
      (value.addr_info as unknown[]).push({
        local,
        prefixlen: Number(length ?? (first === "inet" ? 32 : 128)),
      });
      into.fate(at, "taken", `an address of ${value.ifname}`);
    } else if (/^(vlan|bond|bridge|vrf|gre|ipip|sit|vxlan|veth|dummy|tun|wireguard)\b/.test(text)) {
      const { pairs } = wordsOf(text.slice(first.length), []);
      const data = {
        id: numberIn(pairs.get("id")),
        table: numberIn(pairs.get("table")),
        mode: pairs.get("mode"),
        min_links: numberIn(pairs.get("min_links")),
        ad_lacp_rate: pairs.get("lacp_rate") ?? pairs.get("ad_lacp_rate"),
      };
      value.linkinfo = { info_kind: first, info_data: data };
      into.fate(at, "taken", `the kind of ${value.ifname}: ${first}`);
    } else into.fate(at, "known", "not part of a plan");
  }
  close();
  settleMasters(into);
}

const numberIn = (text: string | undefined) =>
  text !== undefined && /^\d+$/.test(text) ? Number(text) : undefined;

function readRoutes(file: InputFile, lines: readonly string[], into: Collector) {
  for (let i = 0; i < lines.length; i++) {
    const raw = lines[i];
    const text = raw.trim();
    const at = { file: file.name, line: i + 1, text: raw, value: null };
    if (text === "") continue;
    const neighbour = neighbourIn(text);
    const rule = RULE.exec(text);
    if (neighbour) {
      takeNeighbour(neighbour, at, into);
    } else if (rule) {
      const { pairs, alone } = wordsOf(rule[4] ?? "", ["[l3mdev-table]", "[detached]"]);
      const { lookup, to, ...more } = Object.fromEntries(pairs);
      const l3mdev = alone.includes("[l3mdev-table]") ? true : undefined;
      const data = { ...more, dst: to, table: lookup ?? (l3mdev ? "l3mdev" : undefined), l3mdev };
      takeRule(
        {
          ...Object.fromEntries(Object.entries(data).filter(([, value]) => value !== undefined)),
          ...(rule[2] ? { not: true } : {}),
          ...(alone.includes("[detached]") ? { detached: true } : {}),
          priority: Number(rule[1]),
          src: rule[3],
        },
        at,
        into,
      );
    } else {
      const route = ROUTE.exec(text);
      if (!route) {
        into.fate(at, "not-understood", "not a route, rule or neighbor");
        continue;
      }
      const { pairs, hop } = hopOf(route[3] ?? "");
      const nexthops = [];
      while (/^\s+nexthop\s/.test(lines[i + 1] ?? "")) {
        const line = lines[++i];
        nexthops.push(hopOf(line.trim().slice("nexthop".length)).hop);
        into.fate(
          { file: file.name, line: i + 1, text: line },
          "taken",
          "a further next hop of the route above",
        );
      }
      const value = {
        ...hop,
        type: route[1],
        dst: route[2],
        table: pairs.get("table"),
        protocol: pairs.get("proto"),
        scope: pairs.get("scope"),
        metric: numberIn(pairs.get("metric")),
        pref: pairs.get("pref"),
        prefsrc: pairs.get("src"),
        nexthops: nexthops.length > 0 ? nexthops : undefined,
      };
      takeRoute(value, at, into);
    }
  }
}

/** The lines of a text about interfaces, and those about routes, rules and neighbors, each with the others blank: one
 * text may contain both in any order. */
function partsOf(lines: readonly string[]): { links: string[]; routes: string[] } {
  const links = lines.map(() => "");
  const routes = lines.map(() => "");
  let underLink = false;
  for (const [i, line] of lines.entries()) {
    const isHead = LINK.test(line);
    const isBelow = /^\s/.test(line) || /^(?:link\/|inet6? |valid_lft )/.test(line);
    underLink = isHead || (underLink && isBelow);
    (underLink ? links : routes)[i] = line;
  }
  return { links, routes };
}

/** The share of lines that may be of another kind. */
const MAX_OTHERS = 0.1;
const TITLE = /\b(?:static|connected|routes?|networks?)\b/i;

/** iproute2's plain text: what `ip address`, `ip route`, `ip rule` and `ip neighbour` print. */
export const iproute2Text: Reader = {
  kind: "iproute2 text",
  recognises({ text }) {
    const lines = firstLines(text, 40);
    if (lines.some((line) => LINK.test(line))) return 0.95;
    const own = lines.filter((line) => {
      const route = ROUTE.exec(line.trim());
      const said =
        route &&
        (/(^| )(dev|proto|scope|nexthop) /.test(`${route[3] ?? ""} `) || (route[1] && route[1] !== ""));
      return (
        neighbourIn(line) !== null ||
        (RULE.test(line) && / lookup | \[l3mdev/.test(line)) ||
        said ||
        /^\s+nexthop /.test(line)
      );
    });
    // Other text that prints routes alike has headings: only prompts stand between these.
    const others = lines.filter((line) => !own.includes(line) && promptIn(line) === null);
    const isOther = others.length > lines.length * MAX_OTHERS || others.some((line) => TITLE.test(line));
    return own.length > 0 && !isOther ? 0.8 : 0;
  },
  read(file, into) {
    const lines = linesOf(file, into);
    const { links, routes } = partsOf(lines);
    readLinks(file, links, into);
    readRoutes(file, routes, into);
    into.settleByMetric();
  },
};
