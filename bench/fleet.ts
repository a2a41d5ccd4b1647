import { type Plan, readPlan } from "../core/plan/index.ts";
import { Random } from "../tests/support/random.ts";

export interface FleetSize {
  devices: number;
  links: number;
  flows: number;
  /** Static routes in all, about. */
  routes: number;
}

/**
 * A made-up fleet: hubs in a ring with chords, sites of one or two routers hanging on two hubs each, and a
 * host at some sites. Hubs know every site by its own route, sites have a default and a floating one.
 */
export function fleet(size: FleetSize, seed = 1): Plan {
  const random = new Random(seed);
  const hubs = Math.max(3, Math.round(size.devices * 0.04));
  const sites = Math.floor((size.devices - hubs) / 2);
  const devices: Record<string, unknown>[] = [];
  const ports = new Map<string, Record<string, unknown>[]>();
  const routes = new Map<string, Record<string, unknown>[]>();
  const links: Record<string, unknown>[] = [];
  let transfer = 0;
  const add = (id: string, role: string, site: string) => {
    ports.set(id, []);
    routes.set(id, []);
    devices.push({ id, role, site, interfaces: ports.get(id), routes: routes.get(id) });
  };
  /** A transfer network between two routers; the addresses of both ends. */
  const join = (a: string, b: string, medium = "cable"): [string, string] => {
    const n = transfer++;
    const net = `10.${128 + (n >> 14)}.${(n >> 6) & 255}.`;
    const base = (n & 63) * 4;
    const name = `t${n}`;
    ports.get(a)?.push({ name, addresses: [`${net}${base + 1}/30`] });
    ports.get(b)?.push({ name, addresses: [`${net}${base + 2}/30`] });
    links.push({ id: name, medium, ends: [`${a}/${name}`, `${b}/${name}`] });
    return [`${net}${base + 1}`, `${net}${base + 2}`];
  };
  const known = new Set<string>();
  const siteNet = (s: number) => `10.${s >> 8}.${s & 255}`;

  for (let h = 0; h < hubs; h++) add(`hub-${h}`, "router", "core");
  /** next[h]: the address of hub h + 1 as hub h sees it, and of hub h - 1. */
  const onward: string[] = [];
  const backward: string[] = [];
  for (let h = 0; h < hubs; h++) {
    const to = (h + 1) % hubs;
    const [here, there] = join(`hub-${h}`, `hub-${to}`);
    onward[h] = there;
    backward[to] = here;
  }
  const homes: { hub: number; via: string; second: number; viaSecond: string }[] = [];
  for (let s = 0; s < sites; s++) {
    const id = `site-${s}`;
    add(id, "router", id);
    const hub = s % hubs;
    const second = (hub + 1 + random.below(hubs - 1)) % hubs;
    const [a, own] = join(`hub-${hub}`, id, random.chance(0.2) ? "circuit" : "cable");
    const [b, ownSecond] = join(`hub-${second}`, id);
    ports.get(id)?.push({ name: "lan", addresses: [`${siteNet(s)}.1/24`] });
    routes.get(id)?.push({ to: "0.0.0.0/0", via: a }, { to: "0.0.0.0/0", via: b, distance: 20 });
    homes.push({ hub, via: own, second, viaSecond: ownSecond });
    add(`host-${s}`, "host", id);
    ports.get(`host-${s}`)?.push({ name: "eth0", addresses: [`${siteNet(s)}.10/24`] });
    routes.get(`host-${s}`)?.push({ to: "0.0.0.0/0", via: `${siteNet(s)}.1` });
    links.push({ id: `lan-${s}`, medium: "switch", ends: [`${id}/lan`, `host-${s}/eth0`] });
  }
  // Hubs know every site: their own by its line and, floating, its second line's hub; others around the ring.
  const perHub = Math.max(sites, Math.floor(size.routes / hubs) - 8);
  for (let h = 0; h < hubs; h++) {
    const own = routes.get(`hub-${h}`);
    for (let s = 0; s < sites; s++) {
      const { hub, via, second, viaSecond } = homes[s];
      const to = `${siteNet(s)}.0/24`;
      const forward = (hub - h + hubs) % hubs <= hubs / 2;
      if (h === hub) own?.push({ to, via }, { to, via: onward[h], distance: 20 });
      else if (h === second)
        own?.push({ to, via: viaSecond, distance: 20 }, { to, via: forward ? onward[h] : backward[h] });
      else own?.push({ to, via: forward ? onward[h] : backward[h] });
    }
    // More specific routes to fill the table as large ones are filled.
    for (let n = own?.length ?? 0; n < perHub; n++) {
      const s = random.below(sites);
      const third = random.below(64) * 4;
      const to = `${siteNet(s)}.${third}/30`;
      const { hub, via } = homes[s];
      const forward = (hub - h + hubs) % hubs <= hubs / 2;
      const next = h === hub ? via : forward ? onward[h] : backward[h];
      if (!seen(h, to)) own?.push({ to, via: next });
    }
  }
  // Chords until there are as many links as wanted.
  for (let tries = 0; links.length < size.links && tries < size.links * 4; tries++) {
    const a = random.below(sites);
    const b = random.below(sites);
    if (a !== b) join(`site-${a}`, `site-${b}`);
  }
  const flows = Array.from({ length: size.flows }, (_, i) => {
    const a = random.below(sites);
    const b = (a + 1 + random.below(sites - 1)) % sites;
    return { id: `flow-${i}`, from: `host-${a}`, to: `host-${b}` };
  });
  const reading = readPlan({ ironFork: 1, name: `fleet of ${size.devices}`, devices, links, flows });
  if (!reading.ok)
    throw new Error(
      reading.errors
        .slice(0, 3)
        .map((e) => `${e.path}: ${e.message}`)
        .join("; "),
    );
  return reading.plan;

  function seen(h: number, to: string): boolean {
    const key = `${h} ${to}`;
    if (known.has(key)) return true;
    known.add(key);
    return false;
  }
}
