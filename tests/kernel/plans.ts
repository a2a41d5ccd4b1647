import { type Device, type Plan, readPlan } from "../../core/plan/index.ts";
import { Random } from "../support/random.ts";
import { randomPlan } from "../support/random-plan.ts";

/** A random plan as a kernel can hold it: metrics alone, and no two routes to one destination with the same metric. */
export function kernelPlan(seed: number): Plan {
  const random = new Random(seed);
  const plan = randomPlan(seed, { profiles: ["metric-router"], mistakes: true, family: seed % 2 ? 4 : 6 });
  const document = {
    ...plan,
    devices: plan.devices.map((device) => {
      const own = new Set(device.interfaces.flatMap((port) => port.addresses.map((a) => a.split("/")[0])));
      // The one known difference: the kernel takes a next hop that is its own address; rule 4.4 does not.
      const routes = device.routes.filter((route) => !own.has(route.via ?? ""));
      const metrics = random.shuffled(routes.map((_, i) => i));
      // The kernel's own "resolve": next hops are looked up among attached networks alone.
      return {
        ...device,
        routes: routes.map(({ resolve: _r, distance: _d, ...route }, i) => ({
          ...route,
          metric: metrics[i] + 1,
        })),
      };
    }),
  };
  const reading = readPlan(document);
  if (!reading.ok) throw new Error(reading.errors[0].message);
  return reading.plan;
}

/** A random plan whose routers route by source, check the return path, and have a second IPv4 subnet on some links: the
 * subject of rules 6.1 and 6.2. */
export function steeredPlan(seed: number): Plan {
  const plan = kernelPlan(seed);
  const random = new Random(seed * 31);
  const six = seed % 2 === 0;
  const anywhere = six ? "::/0" : "0.0.0.0/0";
  const added = new Map<string, string>();
  if (!six) {
    for (const [l, link] of plan.links.entries()) {
      if (!link.id.startsWith("lan") && random.chance(0.5))
        for (const [e, end] of link.ends.entries()) added.set(end, `10.77.${l}.${e + 1}/29`);
    }
  }
  const devices = plan.devices.map((device) => ({
    ...device,
    interfaces: device.interfaces.map((port) => {
      const second = added.get(`${device.id}/${port.name}`);
      const addresses = second ? random.shuffled([...port.addresses, second]) : port.addresses;
      return { ...port, addresses };
    }),
  }));
  const neighbours = (device: Device) =>
    plan.links.flatMap((link) => {
      const own = link.ends.find((end) => end.startsWith(`${device.id}/`));
      if (!own || link.id.startsWith("lan")) return [];
      const out = own.slice(own.indexOf("/") + 1);
      return link.ends
        .filter((end) => end !== own)
        .flatMap((end) => {
          const [id, name] = end.split("/");
          const port = devices.find((d) => d.id === id)?.interfaces.find((i) => i.name === name);
          return (port?.addresses ?? []).map((address) => ({ via: address.split("/")[0], out }));
        });
    });
  const prefixes = devices
    .filter((device) => device.role === "host")
    .map((device) => lanOf(device.interfaces[0].addresses[0], six));
  const steered = devices.map((device) => {
    const ways = neighbours(device);
    if (device.role !== "router" || ways.length === 0) return device;
    const tables = Array.from({ length: random.below(3) }, (_, t) => {
      const to = random.shuffled([anywhere, ...prefixes]).slice(0, 1 + random.below(3));
      const ports = random.shuffled(device.interfaces.map((port) => port.name)).slice(0, 1 + random.below(2));
      const from = random.shuffled(prefixes).slice(0, 1 + random.below(2));
      const kind = random.below(3);
      return {
        name: `t${t}`,
        match: { ...(kind !== 1 ? { in: ports } : {}), ...(kind !== 0 ? { from } : {}) },
        lookup: "first",
        routes: to.map((prefix) =>
          random.chance(0.15) ? { to: prefix, discard: "reject" } : { to: prefix, ...random.pick(ways) },
        ),
      };
    });
    const second = random.pick(ways);
    const extra = random.chance(0.5) ? [{ to: random.pick(prefixes), ...second, metric: 500 }] : [];
    const seen = device.routes.some((route) => route.to === extra[0]?.to && route.via === second.via);
    return {
      ...device,
      profile: six ? device.profile : random.pick(["metric-router", "strict", "loose"]),
      routes: seen ? device.routes : [...device.routes, ...extra],
      policyTables: tables,
    };
  });
  const base = "metric-router";
  const reading = readPlan({
    ...plan,
    devices: steered,
    profiles: [
      { id: "strict", base, returnPath: "strict" },
      { id: "loose", base, returnPath: "loose" },
    ],
  });
  if (!reading.ok)
    throw new Error(reading.errors.map((error) => `${error.path}: ${error.message}`).join("; "));
  return reading.plan;
}

function lanOf(address: string, six: boolean): string {
  return six ? address.replace(/::.*$/, "::/64") : address.replace(/\.\d+\/24$/, ".0/24");
}

/**
 * A steered plan whose tables look at destination, protocol and marks too, whose routers set marks, and translate
 * destinations of what arrives; pings to an address that is translated are among its flows.
 */
export function markedPlan(seed: number): Plan {
  const plan = steeredPlan(seed);
  const random = new Random(seed * 57);
  const six = seed % 2 === 0;
  const hosts = plan.devices.filter(({ role }) => role === "host");
  const addressOf = (device: Device) => device.interfaces[0].addresses[0].split("/")[0];
  const prefixes = hosts.map((host) => lanOf(host.interfaces[0].addresses[0], six));
  const some = <T>(list: readonly T[]) => random.shuffled(list).slice(0, 1 + random.below(2));
  const devices = plan.devices.map((device) => {
    if (device.role !== "router") return device;
    const ports = device.interfaces.map(({ name }) => name);
    const own = device.interfaces.flatMap(({ addresses }) => addresses.map((text) => text.split("/")[0]));
    const marks = Array.from({ length: random.below(3) }, () => ({
      set: 1 + random.below(2),
      ...(random.chance(0.4) ? { in: some(ports) } : {}),
      ...(random.chance(0.4) ? { from: some(prefixes) } : {}),
      ...(random.chance(0.4) ? { to: some(prefixes) } : {}),
      ...(random.chance(0.4) ? { protocol: random.pick(["icmp", "tcp"]) } : {}),
    }));
    const destNat = random.chance(0.6)
      ? [{ in: random.shuffled(ports), to: random.pick(own), via: addressOf(random.pick(hosts)) }]
      : [];
    return {
      ...device,
      ...(marks.length > 0 ? { marks } : {}),
      ...(destNat.length > 0 ? { destNat } : {}),
      policyTables: device.policyTables.map((table) => ({
        ...table,
        match: {
          ...(random.chance(0.5) ? table.match : {}),
          ...(random.chance(0.4) ? { to: some(prefixes) } : {}),
          ...(random.chance(0.3) ? { protocol: random.pick(["icmp", "tcp"]) } : {}),
          ...(random.chance(0.4) ? { mark: 1 + random.below(2) } : { in: some(ports) }),
        },
      })),
    };
  });
  const reading = readPlan({ ...plan, devices });
  if (!reading.ok)
    throw new Error(reading.errors.map((error) => `${error.path}: ${error.message}`).join("; "));
  return reading.plan;
}

/**
 * A hub and spokes on one multipoint medium, a host behind each. Spokes know each other's networks by the hub, by the
 * other spoke, or as attached to the medium; the hub and some spokes answer ARP for others.
 */
export function hubPlan(seed: number): Plan {
  const random = new Random(seed * 73);
  const count = 3 + random.below(3);
  const spokes = Array.from({ length: count }, (_, n) => n);
  const air = (n: number) => `10.200.0.${n + 1}`;
  const lan = (n: number) => `10.201.${n}.0/24`;
  const router = (n: number) => ({
    id: n === 0 ? "hub" : `s${n}`,
    role: "router",
    profile: "metric-router",
    interfaces: [
      { name: "air", addresses: [`${air(n)}/24`], ...(random.chance(0.5) ? { proxyArp: true } : {}) },
      {
        name: "lan",
        addresses: [`10.201.${n}.1/24`],
        ...(random.chance(0.3) ? { proxyArp: true } : {}),
      },
    ],
    routes: spokes
      .filter((other) => other !== n && random.chance(0.85))
      .map((other) => {
        const kind = random.below(4);
        if (n === 0 || kind === 0) return { to: lan(other), via: air(other) };
        return kind === 1 ? { to: lan(other), out: "air" } : { to: lan(other), via: air(0) };
      }),
  });
  const host = (n: number) => ({
    id: `h${n}`,
    role: "host",
    interfaces: [{ name: "eth0", addresses: [`10.201.${n}.10/${random.chance(0.3) ? 16 : 24}`] }],
    routes: [{ to: "0.0.0.0/0", via: `10.201.${n}.1` }],
  });
  const end = (n: number) => `${n === 0 ? "hub" : `s${n}`}`;
  const reading = readPlan({
    ironFork: 1,
    name: "hub",
    devices: [...spokes.map(router), ...spokes.map(host)],
    links: [
      {
        id: "radio",
        medium: "multipoint",
        ...(random.chance(0.8) ? { hub: "hub/air" } : {}),
        ends: spokes.map((n) => `${end(n)}/air`),
      },
      ...spokes.map((n) => ({ id: `lan${n}`, ends: [`${end(n)}/lan`, `h${n}/eth0`] })),
    ],
  });
  if (!reading.ok)
    throw new Error(reading.errors.map((error) => `${error.path}: ${error.message}`).join("; "));
  return reading.plan;
}

/** A steered IPv4 plan whose transfer networks lie, on some links, inside wider ones on the same interfaces. */
export function overlappingPlan(seed: number): Plan {
  const plan = steeredPlan(seed * 2 - 1);
  const random = new Random(seed * 91);
  const wider = new Set(
    plan.links.filter(({ id }) => !id.startsWith("lan") && random.chance(0.7)).flatMap(({ ends }) => ends),
  );
  const devices = plan.devices.map((device) => ({
    ...device,
    interfaces: device.interfaces.map((port) => {
      const [base] = port.addresses[0]?.split("/") ?? [];
      if (!base || !wider.has(`${device.id}/${port.name}`)) return port;
      const octets = base.split(".").map(Number);
      // Beside the first subnet, in one that holds it.
      const second = `${octets.slice(0, 3).join(".")}.${octets[3] + 100}/24`;
      return { ...port, addresses: random.shuffled([...port.addresses, second]) };
    }),
  }));
  const reading = readPlan({ ...plan, devices });
  if (!reading.ok)
    throw new Error(reading.errors.map((error) => `${error.path}: ${error.message}`).join("; "));
  return reading.plan;
}
