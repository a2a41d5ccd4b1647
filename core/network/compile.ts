import {
  comparePrefix,
  type Family,
  type Prefix,
  parseAddress,
  parsePrefix,
  prefixOf,
} from "../address/index.ts";
import { type Device, type Plan, type Policy, parsePortRange } from "../plan/index.ts";
import { type Entry, entriesOf } from "./entries.ts";
import { compilePorts, type Ports } from "./interfaces.ts";
import {
  type Candidates,
  type DeviceRecord,
  faults,
  type Groups,
  type Network,
  type PolicyRecord,
  type PolicyTableRecord,
  sourceCodes,
  type WatchRecord,
} from "./network.ts";
import { profileOf } from "./profile.ts";

/** Compiles a plan. The plan must have been read by `readPlan`: its references hold. Time O(n log n). */
export function compile(plan: Plan): Network {
  const vrfs = plan.devices.map(vrfsOf);
  const ports = compilePorts(plan, vrfs);
  const watches = compileWatches(plan);
  const builder = new CandidateBuilder();
  const devices: DeviceRecord[] = [];
  let firstInterface = 0;
  let firstWatch = 0;
  for (const [d, device] of plan.devices.entries()) {
    const endInterface = firstInterface + device.interfaces.length;
    const endWatch = firstWatch + device.watches.length;
    const { id: profileId, profile } = profileOf(plan, device);
    const onByDefault = device.role !== "host";
    const settled = {
      index: d,
      id: device.id,
      label: device.label ?? device.id,
      role: device.role,
      profile,
      profileId,
      forwards: { 4: device.forwarding?.ipv4 ?? onByDefault, 6: device.forwarding?.ipv6 ?? onByDefault },
      vrfs: vrfs[d],
      policyTables: compilePolicyTables(device, vrfs[d], ports),
      policy: device.policy ? compilePolicy(device.policy, profile) : null,
      sourceNat: device.sourceNat.map((nat) => ({
        out: ports.interfaceIndex.get(`${device.id}/${nat.out}`) as number,
        from: nat.from ? nat.from.map((text) => parsePrefix(text) as Prefix) : null,
        to: nat.to === "interface" ? null : parseAddress(nat.to),
      })),
      firstInterface,
      endInterface,
      firstWatch,
      endWatch,
    };
    const span = builder.add(d, entriesOf(plan, device, settled, ports));
    devices.push({ ...settled, ...span });
    firstInterface = endInterface;
    firstWatch = endWatch;
  }
  const { candidates, groups } = builder.finish();
  return {
    plan,
    devices,
    deviceIndex: new Map(devices.map((device) => [device.id, device.index])),
    interfaces: ports.interfaces,
    interfaceIndex: ports.interfaceIndex,
    addresses: ports.addresses,
    links: ports.links,
    tunnels: ports.tunnels,
    watches,
    candidates,
    groups,
    announced: plan.devices.flatMap((device) =>
      (device.announces ?? []).map((text) => parsePrefix(text) as Prefix),
    ),
  };
}

function vrfsOf(device: Device): string[] {
  const vrfs = new Set(["main"]);
  for (const entry of device.interfaces) vrfs.add(entry.vrf ?? "main");
  for (const route of [...device.routes, ...device.learned]) vrfs.add(route.vrf ?? "main");
  return [...vrfs];
}

function compileWatches(plan: Plan): WatchRecord[] {
  const records: WatchRecord[] = [];
  for (const [d, device] of plan.devices.entries()) {
    const first = records.length;
    for (const watch of device.watches) {
      const members =
        watch.kind === "group"
          ? watch.of.map((id) => first + device.watches.findIndex((w) => w.id === id))
          : [];
      records.push({ index: records.length, device: d, watch, members });
    }
  }
  return records;
}

function compilePolicyTables(device: Device, vrfs: readonly string[], ports: Ports): PolicyTableRecord[] {
  return device.policyTables.map((table, i) => {
    const incoming = table.match.in?.map(
      (name) => ports.interfaceIndex.get(`${device.id}/${name}`) as number,
    );
    return {
      name: table.name,
      table: vrfs.length + i,
      vrf: incoming?.length ? ports.interfaces.vrf[incoming[0]] : 0,
      overlay: table.lookup === "overlay",
      incoming: incoming ? new Set(incoming) : null,
      from: table.match.from?.map((text) => parsePrefix(text) as Prefix) ?? null,
    };
  });
}

function compilePolicy(
  policy: Policy,
  profile: { betweenZones: "allow" | "deny"; withinZone: "allow" | "deny" },
): PolicyRecord {
  const prefixes = (texts: readonly string[] | undefined) =>
    (texts ?? []).map((text) => parsePrefix(text) as Prefix);
  return {
    betweenZones: policy.default ?? profile.betweenZones,
    withinZone: policy.sameZone ?? profile.withinZone,
    rules: policy.rules.map((rule) => {
      const ports = rule.port ? parsePortRange(rule.port) : null;
      return {
        from: rule.from?.length ? new Set(rule.from) : null,
        to: rule.to?.length ? new Set(rule.to) : null,
        allow: rule.action === "allow",
        source: prefixes(rule.source),
        destination: prefixes(rule.destination),
        protocol: rule.protocol ?? null,
        firstPort: ports?.first ?? 0,
        lastPort: ports?.last ?? 0,
      };
    }),
  };
}

/** Lays candidates into columns, device by device, sorted so that those of one destination lie together. */
class CandidateBuilder {
  private readonly entries: Entry[] = [];
  private readonly device: number[] = [];
  private readonly group: number[] = [];
  private readonly groupStart: number[] = [];
  private readonly groupTable: number[] = [];
  private readonly coverStart: number[] = [0];
  private readonly cover: number[] = [];

  add(device: number, entries: Entry[]) {
    const firstCandidate = this.entries.length;
    const firstGroup = this.groupStart.length;
    entries.sort(
      (a, b) => a.table - b.table || comparePrefix(a.to, b.to) || a.source - b.source || a.order - b.order,
    );
    for (const [i, entry] of entries.entries()) {
      const previous = entries[i - 1];
      if (!previous || previous.table !== entry.table || comparePrefix(previous.to, entry.to) !== 0) {
        this.groupStart.push(firstCandidate + i);
        this.groupTable.push(entry.table);
      }
      this.entries.push(entry);
      this.device.push(device);
      this.group.push(this.groupStart.length - 1);
    }
    this.findCovers(firstCandidate, firstGroup);
    return {
      firstCandidate,
      endCandidate: this.entries.length,
      firstGroup,
      endGroup: this.groupStart.length,
    };
  }

  /** For each next hop that must be resolved, the destinations that hold it, longest first. */
  private findCovers(firstCandidate: number, firstGroup: number) {
    const groups = new Map<string, number>();
    const lengths = new Map<string, number[]>();
    for (let g = firstGroup; g < this.groupStart.length; g++) {
      const { to } = this.entries[this.groupStart[g]];
      const table = this.groupTable[g];
      groups.set(keyOf(table, to), g);
      const family = `${table} ${to.address.family}`;
      const list = lengths.get(family) ?? [];
      if (!list.includes(to.length)) list.push(to.length);
      lengths.set(family, list);
    }
    for (const list of lengths.values()) list.sort((a, b) => b - a);
    const known = new Map<string, number[]>();
    for (let c = firstCandidate; c < this.entries.length; c++) {
      const { recursive, via, vrf } = this.entries[c];
      if (recursive && via) {
        const key = keyOf(vrf, { address: via, length: 128 });
        let covers = known.get(key);
        if (!covers) {
          covers = (lengths.get(`${vrf} ${via.family}`) ?? [])
            .map((length) => groups.get(keyOf(vrf, prefixOf(via, length))))
            .filter((g) => g !== undefined);
          known.set(key, covers);
        }
        this.cover.push(...covers);
      }
      this.coverStart.push(this.cover.length);
    }
  }

  finish(): { candidates: Candidates; groups: Groups } {
    const { entries } = this;
    const count = entries.length;
    const protocols = [...new Set(entries.flatMap((entry) => (entry.protocol ? [entry.protocol] : [])))];
    const int = (value: (entry: Entry) => number) => Int32Array.from(entries, value);
    const byte = (value: (entry: Entry) => number) => Uint8Array.from(entries, value);
    const destination = new Uint32Array(count * 4);
    const via = new Uint32Array(count * 4);
    const answer = new Int32Array(count).fill(-1);
    const answering: number[] = [];
    for (const [c, entry] of entries.entries()) {
      const { address } = entry.to;
      destination.set([address.w0, address.w1, address.w2, address.w3], c * 4);
      if (entry.via) via.set([entry.via.w0, entry.via.w1, entry.via.w2, entry.via.w3], c * 4);
      if (entry.needsAnswer && entry.source !== sourceCodes.connected) answer[c] = answering.push(c) - 1;
    }
    const candidates: Candidates = {
      count,
      device: Int32Array.from(this.device),
      table: int((e) => e.table),
      group: Int32Array.from(this.group),
      source: byte((e) => e.source),
      protocol: int((e) => (e.protocol ? protocols.indexOf(e.protocol) : -1)),
      protocols,
      family: byte((e) => e.to.address.family as Family),
      destination,
      length: byte((e) => e.to.length),
      hasVia: byte((e) => Number(e.via !== null)),
      via,
      out: int((e) => e.out),
      peer: int((e) => e.peer),
      distance: int((e) => e.distance),
      metric: Float64Array.from(entries, (e) => e.metric),
      resolve: byte((e) => e.resolve),
      action: byte((e) => e.action),
      toVrf: int((e) => e.toVrf),
      watch: int((e) => e.watch),
      fault: byte((e) => faults.indexOf(e.fault)),
      answer,
      answering: Int32Array.from(answering),
      order: int((e) => e.order),
      coverStart: Int32Array.from(this.coverStart),
      cover: Int32Array.from(this.cover),
    };
    const groups: Groups = {
      count: this.groupStart.length,
      start: Int32Array.from([...this.groupStart, count]),
      table: Int32Array.from(this.groupTable),
    };
    return { candidates, groups };
  }
}

function keyOf(table: number, prefix: Prefix): string {
  const { address, length } = prefix;
  return `${table} ${address.family} ${address.w0}.${address.w1}.${address.w2}.${address.w3}/${length}`;
}
