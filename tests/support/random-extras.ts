import { type Plan, readPlan } from "../../core/plan/index.ts";
import type { Random } from "./random.ts";

/** The plan with some routes tied to watches: interfaces, probes of the far ends, BFD on both ends of a link. */
export function withWatches(plan: Plan, random: Random, probes = true): Plan {
  const document = structuredClone(plan);
  const addressOf = (end: string) => {
    const slash = end.indexOf("/");
    const device = document.devices.find((d) => d.id === end.slice(0, slash));
    return device?.interfaces.find((i) => i.name === end.slice(slash + 1))?.addresses[0]?.split("/")[0];
  };
  for (const link of document.links) {
    if (link.medium === "switch" || !random.chance(0.6)) continue;
    const [a, b] = link.ends;
    const session = (own: string, peer: string) => {
      const device = document.devices.find((d) => d.id === own.slice(0, own.indexOf("/")));
      const address = addressOf(peer);
      if (!device || !address) return;
      const id = `bfd-${link.id}`;
      device.watches.push({
        id,
        kind: "bfd",
        interface: own.slice(own.indexOf("/") + 1),
        peer: address,
        minTxMs: 300,
        minRxMs: 300,
        multiplier: 3,
      });
      for (const route of device.routes) if (route.via === address && random.chance(0.7)) route.watch = id;
    };
    session(a, b);
    session(b, a);
  }
  for (const device of document.devices) {
    if (!probes || device.role !== "router" || !random.chance(0.5)) continue;
    const targets = document.devices.flatMap((d) =>
      d.interfaces.flatMap((i) => i.addresses.map((x) => x.split("/")[0])),
    );
    const [first] = device.interfaces;
    device.watches.push({
      id: "probe",
      kind: "probe",
      target: random.pick(targets),
      intervalMs: 1000,
      timeoutMs: 500,
      failAfter: 2,
      recoverAfter: 1,
    });
    device.watches.push({ id: "port", kind: "interface", interface: first.name });
    device.watches.push({
      id: "both",
      kind: "group",
      need: random.pick(["any", "all"] as const),
      of: ["probe", "port"],
    });
    for (const route of device.routes)
      if (!route.watch && random.chance(0.3)) route.watch = random.pick(["probe", "port", "both"]);
  }
  const reading = readPlan(document);
  if (!reading.ok) throw new Error(reading.errors[0].message);
  return reading.plan;
}

/** A part of a document before it is read. */
// biome-ignore lint/suspicious/noExplicitAny: the schema checks this document when it is read.
type Loose = Record<string, any>;

/** The plan with loopbacks, tunnels over them, tables by source, translation, policy and return-path checks here and there. */
export function withOddities(plan: Plan, random: Random): Plan {
  const v6 = plan.devices.some((d) => d.interfaces.some((i) => i.addresses.some((a) => a.includes(":"))));
  const document = structuredClone(plan) as unknown as {
    profiles: unknown[];
    devices: Loose[];
    flows: unknown[];
  };
  const routers = document.devices.filter((d) => d.role === "router");
  const [host, any] = v6 ? ["/128", "::/0"] : ["/32", "0.0.0.0/0"];
  const loopback = (n: number) => (v6 ? `2001:db8:77::${n + 1}` : `10.77.0.${n + 1}`);
  const inner = (n: number, end: number) => (v6 ? `2001:db8:78:${n}::${end}` : `10.78.${n}.${end}`);
  const neighbours = (d: Loose) => d.routes.filter((r: Loose) => r.via).map((r: Loose) => r.via);
  document.profiles.push({ id: "strict", base: "metric-router", returnPath: "strict" });
  document.profiles.push({ id: "loose", base: "metric-router", returnPath: "loose" });
  for (const [n, router] of routers.entries()) {
    if (random.chance(0.3)) router.profile = random.pick(["strict", "loose"]);
    if (random.chance(0.8))
      router.interfaces.push({ name: "lo", kind: "loopback", addresses: [loopback(n) + host] });
    for (const m of routers.keys()) {
      const vias = neighbours(router);
      if (m !== n && vias.length && random.chance(0.7))
        router.routes.push({ to: loopback(m) + host, via: random.pick(vias) });
    }
  }
  for (let t = 0; t < 2; t++) {
    const [a, b] = random.shuffled([...routers.keys()]);
    const keepaliveMs = random.pick([0, 1000]);
    const end = (own: number, far: number, side: number) => {
      const router = routers[own];
      const from = random.chance(0.5) ? { from: loopback(own) } : {};
      const underlay = { to: loopback(far), keepaliveMs, ...from };
      router.interfaces.push({
        name: `tun${t}`,
        kind: "tunnel",
        addresses: [`${inner(t, side)}${v6 ? "/126" : "/30"}`],
        underlay,
      });
      const to = random.pick(routers[far].interfaces as Loose[]).addresses[0];
      const target = typeof to === "string" && to.includes("/") ? to.split("/")[0] + host : any;
      if (random.chance(0.7))
        router.routes.push({ to: target, via: inner(t, 3 - side), metric: random.below(3) });
    };
    end(a, b, 1);
    end(b, a, 2);
  }
  for (const router of routers) {
    const vias = neighbours(router);
    const port = random.pick(router.interfaces as Loose[]);
    const source = random.pick(
      document.devices.flatMap((d) => d.interfaces.flatMap((i: Loose) => i.addresses)) as string[],
    );
    if (vias.length && random.chance(0.4)) {
      const from = [source.split("/")[0] + host];
      const routes = [{ to: any, via: random.pick(vias) }];
      router.policyTables.push({
        name: "by-source",
        match: random.chance(0.5) ? { in: [port.name] } : { from },
        lookup: random.pick(["first", "overlay"]),
        routes,
      });
    }
    if (random.chance(0.25)) router.sourceNat.push({ out: port.name, to: "interface" });
    if (random.chance(0.25)) {
      router.profile = "zone-firewall";
      for (const entry of router.interfaces) entry.zone = random.pick(["a", "b"]);
      router.policy = { default: random.pick(["allow", "deny"]), trust: ["a", "b"], rules: [] };
    }
  }
  for (const [n, router] of routers.entries()) {
    const other = random.pick(document.devices);
    if (other !== router) document.flows.push({ id: `own${n}`, from: router.id, to: other.id });
    document.flows.push({
      id: `lo${n}`,
      from: random.pick(document.devices).id,
      to: loopback(n),
      protocol: random.pick(["udp", "icmp"]),
    });
  }
  const reading = readPlan(withoutTwins(document));
  if (!reading.ok) throw new Error(reading.errors.map((e) => `${e.path}: ${e.message}`).join("; "));
  return reading.plan;
}

/** The document without routes that stand twice, and by what its routers refuse. */
function withoutTwins<T extends { devices: Loose[] }>(document: T): T {
  for (const device of document.devices) {
    const seen = new Set<string>();
    device.routes = device.routes.filter((route: Loose) => {
      const key = `${route.to} ${route.via} ${route.out} ${route.discard}`;
      return !seen.has(key) && seen.add(key);
    });
  }
  return document;
}

/** The plan with routers that answer a flow by the way that it came in, here and there (rule 6.8). */
export function withWayIn(plan: Plan, random: Random): Plan {
  const document = structuredClone(plan) as unknown as { profiles: unknown[]; devices: Loose[] };
  document.profiles.push({ id: "way-in", base: "metric-router", replyBy: "came-in" });
  for (const device of document.devices)
    if (device.role !== "host" && random.chance(0.4)) device.profile = "way-in";
  const reading = readPlan(document);
  if (!reading.ok) throw new Error(reading.errors[0].message);
  return reading.plan;
}
