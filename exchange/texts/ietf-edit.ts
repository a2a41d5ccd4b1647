import type { Device, Plan } from "../../core/plan/index.ts";
import { configurationOf } from "../writers/ietf.ts";
import { formatConfig, type XmlNode } from "../writers/xml.ts";

/** A part of a datastore: its name, with its module where that changes, and the leaves that tell a list's entry. */
interface Part {
  readonly name: string;
  readonly keys?: Readonly<Record<string, string>>;
}

/** One operation on a datastore, by the words of RFC 8072; NETCONF has the same ones (RFC 6241, section 7.2). */
export interface DatastoreEdit {
  readonly operation: "create" | "replace" | "merge" | "remove";
  readonly target: readonly Part[];
  /** Without the keys; null for a removed entry. */
  readonly value: Readonly<Record<string, unknown>> | null;
}

/** A device in its plan. */
export interface Configurations {
  readonly plan: Plan;
  readonly device: Device;
}

type Configuration = ReturnType<typeof configurationOf>;
type Entry = Readonly<Record<string, unknown>>;

const routing: Part = { name: "ietf-routing:routing" };
const protocols: Part = { name: "control-plane-protocols" };
const statics: Part = {
  name: "control-plane-protocol",
  keys: { type: "ietf-routing:static", name: "static" },
};
const interfaces: Part = { name: "ietf-interfaces:interfaces" };

/** The changes from one device configuration to another, in the IETF's models (RFC 8343, 8344, 8349): additions before
 * removals. */
export function datastoreEdits(before: Configurations, after: Configurations): DatastoreEdit[] {
  const [was, now] = [before, after].map(({ plan, device }) => configurationOf(plan, device));
  const edits = [...interfaceEdits(was, now), ...routeEdits(was, now)];
  const late = ({ operation }: DatastoreEdit) => Number(operation === "remove");
  return edits.sort((a, b) => late(a) - late(b));
}

function interfaceEdits(was: Configuration, now: Configuration): DatastoreEdit[] {
  const [old, fresh] = [was, now].map((one) => byKey(one["ietf-interfaces:interfaces"].interface, "name"));
  const at = (name: string): Part[] => [interfaces, { name: "interface", keys: { name } }];
  return keysOf(old, fresh).flatMap((name): DatastoreEdit[] => {
    const [entry, then] = [old.get(name), fresh.get(name)];
    if (!then) return [{ operation: "remove", target: at(name), value: null }];
    if (!entry) return [{ operation: "create", target: at(name), value: without(then, "name") }];
    return changedInterface(at(name), entry, then);
  });
}

/** Other settings of the interface remain: only differences are merged, and removed settings are deleted individually.
 * */
function changedInterface(target: Part[], was: Entry, now: Entry): DatastoreEdit[] {
  const edits: DatastoreEdit[] = [];
  const leaves = Object.fromEntries(
    ["description", "type", "enabled"].flatMap((leaf) =>
      now[leaf] !== undefined && now[leaf] !== was[leaf] ? [[leaf, now[leaf]]] : [],
    ),
  );
  const families: Record<string, unknown> = {};
  for (const name of ["ietf-ip:ipv4", "ietf-ip:ipv6"]) {
    const [old, fresh] = [was, now].map((entry) => byKey(familyOf(entry, name)?.address ?? [], "ip"));
    const added = [...fresh].flatMap(([ip, address]) => (same(old.get(ip), address) ? [] : [address]));
    const forwarding = familyOf(now, name)?.forwarding;
    const turned = forwarding !== undefined && forwarding !== familyOf(was, name)?.forwarding;
    if (added.length > 0 || turned)
      families[name] = { ...(turned && { forwarding }), ...(added.length > 0 && { address: added }) };
    for (const ip of old.keys()) {
      if (!fresh.has(ip))
        edits.push({
          operation: "remove",
          target: [...target, { name }, { name: "address", keys: { ip } }],
          value: null,
        });
    }
  }
  for (const name of ["ietf-ip:ipv4", "ietf-ip:ipv6"]) edits.push(...virtualEdits(target, name, was, now));
  if (was.description !== undefined && now.description === undefined)
    edits.push({ operation: "remove", target: [...target, { name: "description" }], value: null });
  const value = { ...leaves, ...families };
  return Object.keys(value).length > 0 ? [{ operation: "merge", target, value }, ...edits] : edits;
}

/** Virtual routers are identified by their ids (RFC 8347); one that differs is replaced entirely. */
function virtualEdits(target: Part[], family: string, was: Entry, now: Entry): DatastoreEdit[] {
  const [old, fresh] = [was, now].map((entry) =>
    byKey(familyOf(entry, family)?.["ietf-vrrp:vrrp"]?.["vrrp-instance"] ?? [], "vrid"),
  );
  return keysOf(old, fresh).flatMap((vrid): DatastoreEdit[] => {
    const [entry, then] = [old.get(vrid), fresh.get(vrid)];
    if (same(entry, then)) return [];
    const at = [
      ...target,
      { name: family },
      { name: "ietf-vrrp:vrrp" },
      { name: "vrrp-instance", keys: { vrid } },
    ];
    if (!then) return [{ operation: "remove", target: at, value: null }];
    return [{ operation: entry ? "replace" : "create", target: at, value: without(then, "vrid") }];
  });
}

interface Family {
  readonly forwarding?: boolean;
  readonly address?: readonly Entry[];
  readonly "ietf-vrrp:vrrp"?: { readonly "vrrp-instance": readonly Entry[] };
}

const familyOf = (entry: Entry, name: string) => entry[name] as Family | undefined;

function routeEdits(was: Configuration, now: Configuration): DatastoreEdit[] {
  const [before, after] = [was, now].map(staticsOf);
  // The instance for static routes exists only if there are any.
  if (Object.keys(before).length === 0 && Object.keys(after).length > 0)
    return [{ operation: "merge", target: [routing, protocols, statics], value: { "static-routes": after } }];
  return [4, 6].flatMap((version) => {
    const family = `ietf-ipv${version}-unicast-routing:ipv${version}`;
    const [old, fresh] = [before, after].map((one) => byKey(one[family]?.route ?? [], "destination-prefix"));
    return keysOf(old, fresh).flatMap((to): DatastoreEdit[] => {
      const [entry, then] = [old.get(to), fresh.get(to)];
      if (same(entry, then)) return [];
      const route: Part = { name: "route", keys: { "destination-prefix": to } };
      const target = [routing, protocols, statics, { name: "static-routes" }, { name: family }, route];
      if (!then) return [{ operation: "remove", target, value: null }];
      return [
        { operation: entry ? "replace" : "create", target, value: without(then, "destination-prefix") },
      ];
    });
  });
}

function staticsOf(configuration: Configuration): Record<string, { route: readonly Entry[] }> {
  const [protocol] =
    configuration["ietf-routing:routing"]["control-plane-protocols"]["control-plane-protocol"];
  return protocol?.["static-routes"] ?? {};
}

function byKey(entries: readonly Entry[], key: string): Map<string, Entry> {
  return new Map(entries.map((entry) => [String(entry[key]), entry]));
}

function keysOf(a: ReadonlyMap<string, unknown>, b: ReadonlyMap<string, unknown>): string[] {
  return [...new Set([...a.keys(), ...b.keys()])];
}

function without(entry: Entry, key: string): Entry {
  return Object.fromEntries(Object.entries(entry).filter(([name]) => name !== key));
}

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** Edits as a YANG Patch (RFC 8072) in JSON (RFC 7951), to be sent to a RESTCONF datastore (RFC 8040). */
export function yangPatchOf(edits: readonly DatastoreEdit[], id: string): string {
  const edit = edits.map(({ operation, target, value }, n) => ({
    "edit-id": String(n + 1),
    operation,
    target: target.map(({ name, keys = {} }) => `/${name}${keyText(keys)}`).join(""),
    ...(value && { value: { [qualified(target)]: listed(target, value) } }),
  }));
  return JSON.stringify({ "ietf-yang-patch:yang-patch": { "patch-id": id, edit } }, null, 2);
}

function keyText(keys: Readonly<Record<string, string>>): string {
  const values = Object.values(keys).map(encodeURIComponent);
  return values.length > 0 ? `=${values.join(",")}` : "";
}

/** The last part's name with the module that it is of. */
function qualified(target: readonly Part[]): string {
  const { name } = target.at(-1) as Part;
  if (name.includes(":")) return name;
  const [module] = target.findLast((part) => part.name.includes(":"))?.name.split(":") ?? [""];
  return `${module}:${name}`;
}

/** A list's entry inside its list, with its keys. */
function listed(target: readonly Part[], value: Entry): unknown {
  const { keys } = target.at(-1) as Part;
  return keys ? [{ ...keys, ...value }] : value;
}

/** Edits as the `config` of NETCONF's edit-config (RFC 6241), each with its operation where it stands. */
export function editConfigOf(edits: readonly DatastoreEdit[]): string {
  const root: XmlNode = { name: "config", children: [] };
  for (const { operation, target, value } of edits) {
    let node = root;
    for (const { name, keys = {} } of target) {
      const id = `${name}${keyText(keys)}`;
      let next = node.children.find((child) => child.id === id);
      if (!next) {
        next = { id, name, value: keys, children: [] };
        node.children.push(next);
      }
      node = next;
    }
    node.operation = operation;
    node.value = { ...node.value, ...value };
  }
  return formatConfig(root);
}
