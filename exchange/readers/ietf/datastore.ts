import type { Collector } from "../../facts/index.ts";
import { type At, takeInterface, takeRoute } from "./models.ts";
import { child, list, text } from "./tree.ts";

/** The position of a datastore's entry in its file, by the path that leads to it. */
export type Place = (path: readonly (string | number)[], entry: unknown) => At;

const known = [
  "interfaces",
  "interfaces-state",
  "routing",
  "routing-state",
  "system",
  "system-state",
  "networks",
  "data",
  "config",
];

/** Reads a datastore, or a part of one: RFC 8343 interfaces, 8344 addresses, 8349 routing, 7317 the host's name. */
export function readDatastore(tree: unknown, place: Place, into: Collector, path: readonly string[] = []) {
  if (typeof tree !== "object" || tree === null) return;
  for (const [key, value] of Object.entries(tree)) {
    const name = key.slice(key.indexOf(":") + 1);
    const here = [...path, key];
    if (name === "data" || name === "config" || name === "rpc-reply") readDatastore(value, place, into, here);
    else if (name === "interfaces" || name === "interfaces-state") readInterfaces(value, here, place, into);
    else if (name === "interface") readInterfaces({ interface: value }, path, place, into);
    else if (name === "routing" || name === "routing-state") readRouting(value, here, place, into);
    else if (name === "ribs" || name === "rib" || name === "control-plane-protocols")
      readRouting({ [key]: value }, path, place, into);
    else if (name === "system" && text(value, "hostname")) {
      into.told ??= text(value, "hostname");
      into.fate(place(here, value), "taken", `the device's name: ${text(value, "hostname")}`);
    } else if (!key.startsWith("@") && !key.startsWith("?") && !key.startsWith("xmlns")) {
      const what = known.includes(name) ? "known" : "not-understood";
      into.fate(place(here, value), what, `${name}: ignored`);
    }
  }
  settleForwarding(into);
}

const keyOf = (tree: unknown, name: string) =>
  Object.keys((tree ?? {}) as object).find((key) => key.slice(key.indexOf(":") + 1) === name) ?? name;

function readInterfaces(tree: unknown, path: readonly string[], place: Place, into: Collector) {
  const key = keyOf(tree, "interface");
  for (const [i, entry] of list(tree, "interface").entries()) {
    takeInterface(entry, place([...path, key, i], entry), into);
  }
}

function readRouting(tree: unknown, path: readonly string[], place: Place, into: Collector) {
  const router = text(tree, "router-id");
  if (router !== null)
    into.fate(place([...path, keyOf(tree, "router-id")], router), "known", "the router's id");
  for (const inner of ["ribs", "rib"] as const) {
    const holder = inner === "ribs" ? child(tree, "ribs") : tree;
    const base = inner === "ribs" ? [...path, keyOf(tree, "ribs")] : path;
    const key = keyOf(holder, "rib");
    for (const [i, rib] of list(holder, "rib").entries()) readRib(rib, [...base, key, i], place, into);
  }
  const protocols = child(tree, "control-plane-protocols");
  const at = [...path, keyOf(tree, "control-plane-protocols"), keyOf(protocols, "control-plane-protocol")];
  for (const [i, protocol] of list(protocols, "control-plane-protocol").entries()) {
    readStatics(protocol, [...at, i], place, into);
  }
}

function readRib(rib: unknown, path: readonly (string | number)[], place: Place, into: Collector) {
  const routes = child(rib, "routes") ?? {};
  const vrf = vrfOfRib(text(rib, "name"), text(rib, "default-rib"));
  const key = keyOf(routes, "route");
  for (const [i, route] of list(routes, "route").entries()) {
    const at = place([...path, keyOf(rib, "routes"), key, i], route);
    takeRoute(route, { vrf, source: null, ofState: true }, at, into);
  }
}

/** A RIB that is the default one of its family is the main table; another is named after its VRF, its family left out. */
function vrfOfRib(name: string | null, isDefault: string | null): string {
  if (name === null || isDefault === "true") return "main";
  const bare = name
    .replace(/^(?:ipv[46]|inet6?)[-_.]?/i, "")
    .replace(/[-_.]?(?:ipv[46]|inet6?|v[46])(?:[-_.]?(?:unicast|rib))?$/i, "");
  return ["", "main", "master", "default", "global", "rib", "unicast"].includes(bare.toLowerCase())
    ? "main"
    : bare;
}

function readStatics(protocol: unknown, path: readonly (string | number)[], place: Place, into: Collector) {
  const name = text(protocol, "name") ?? "";
  const routes = child(protocol, "static-routes");
  if (routes === undefined) {
    return into.fate(place(path, protocol), "known", `the protocol ${name}: its routes are in the RIBs`);
  }
  for (const family of ["ipv4", "ipv6"]) {
    const holder = child(routes, family);
    const key = keyOf(holder, "route");
    const base = [...path, keyOf(protocol, "static-routes"), keyOf(routes, family)];
    for (const [i, route] of list(holder, "route").entries()) {
      takeRoute(
        route,
        { vrf: "main", source: "static", ofState: false },
        place([...base, key, i], route),
        into,
      );
    }
  }
}

/** A device forwards where any of its interfaces does (RFC 8344: the leaf stands at each). */
function settleForwarding(into: Collector) {
  for (const family of ["ipv4", "ipv6"] as const) {
    const told = into.forwardingOf.filter(([of]) => of === family);
    if (told.length > 0) into.facts.forwarding[family] = told.some(([, on]) => on);
  }
}
