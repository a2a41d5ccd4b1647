import { type Plan, readPlan } from "../../core/plan/index.ts";
import { Random } from "./random.ts";

interface Loose {
  // Plans are written here as a person would write the document, and read by the schema at the end.
  [key: string]: unknown;
}

export interface RandomOptions {
  family?: 4 | 6;
  profiles?: readonly string[];
  media?: readonly ("cable" | "switch" | "circuit")[];
  /** Also next hops without an owner, loops, discards and disabled routes. */
  mistakes?: boolean;
}

const allProfiles = [
  "classic-router",
  "preference-router",
  "metric-router",
  "zone-firewall",
  "interface-firewall",
];

/** A plan of a few routers in a random graph, a host on some of them, and routes good and bad. */
export function randomPlan(seed: number, options: RandomOptions = {}): Plan {
  const random = new Random(seed);
  const family = options.family ?? 4;
  const profiles = options.profiles ?? allProfiles;
  const media = options.media ?? ["cable", "switch", "circuit"];
  const count = 2 + random.below(4);
  const long = family === 4 ? 30 : 126;
  const wide = family === 4 ? 24 : 64;
  const linkAddress = (link: number, host: number) =>
    family === 4 ? `10.9.${link}.${host}` : `2001:db8:9:${link.toString(16)}::${host}`;
  const lanAddress = (lan: number, host: number) =>
    family === 4 ? `10.1.${lan}.${host}` : `2001:db8:1:${lan.toString(16)}::${host.toString(16)}`;
  const lanPrefix = (lan: number) =>
    family === 4 ? `10.1.${lan}.0/24` : `2001:db8:1:${lan.toString(16)}::/64`;
  const anywhere = family === 4 ? "0.0.0.0/0" : "::/0";

  const devices: (Loose & { id: string; interfaces: Loose[]; routes: Loose[] })[] = [];
  const links: Loose[] = [];
  const neighbours: { address: string; out: string }[][] = [];
  for (let d = 0; d < count; d++) {
    devices.push({ id: `r${d}`, role: "router", profile: random.pick(profiles), interfaces: [], routes: [] });
    neighbours.push([]);
  }
  let linkCount = 0;
  const join = (a: number, b: number) => {
    const n = linkCount++;
    const name = `l${n}`;
    devices[a].interfaces.push({ name, addresses: [`${linkAddress(n, 1)}/${long}`] });
    devices[b].interfaces.push({ name, addresses: [`${linkAddress(n, 2)}/${long}`] });
    neighbours[a].push({ address: linkAddress(n, 2), out: name });
    neighbours[b].push({ address: linkAddress(n, 1), out: name });
    links.push({ id: name, medium: random.pick(media), ends: [`r${a}/${name}`, `r${b}/${name}`] });
  };
  for (let d = 1; d < count; d++) join(d, random.below(d));
  for (let extra = random.below(3); extra > 0 && count > 2; extra--) {
    const a = random.below(count);
    const b = (a + 1 + random.below(count - 1)) % count;
    join(a, b);
  }
  const hosts: number[] = [];
  for (let d = 0; d < count; d++) {
    if (d > 1 && random.chance(0.4)) continue;
    hosts.push(d);
    devices[d].interfaces.push({ name: "lan", addresses: [`${lanAddress(d, 1)}/${wide}`] });
    devices.push({
      id: `h${d}`,
      role: "host",
      interfaces: [{ name: "eth0", addresses: [`${lanAddress(d, 10)}/${wide}`] }],
      routes: [{ to: anywhere, via: lanAddress(d, 1) }],
    });
    links.push({ id: `lan${d}`, medium: "switch", ends: [`r${d}/lan`, `h${d}/eth0`] });
  }

  for (let d = 0; d < count; d++) {
    const seen = new Set<string>();
    const put = (route: Loose) => {
      const key = `${route.to} ${route.via ?? "-"} ${route.out ?? "-"} ${route.discard ? "discard" : "hop"}`;
      if (seen.has(key)) return;
      seen.add(key);
      devices[d].routes.push(route);
    };
    const metric = () => (random.chance(0.5) ? { metric: random.below(4) } : {});
    const distance = () => (random.chance(0.5) ? { distance: 1 + random.below(30) } : {});
    for (const lan of hosts) {
      if (lan === d) continue;
      for (let n = 1 + random.below(2); n > 0; n--) {
        const { address, out } = random.pick(neighbours[d]);
        const named = random.chance(0.3) ? { out } : {};
        put({ to: lanPrefix(lan), via: address, ...named, ...metric(), ...distance() });
      }
    }
    if (random.chance(0.4)) put({ to: anywhere, via: random.pick(neighbours[d]).address, ...metric() });
    if (!options.mistakes) continue;
    if (random.chance(0.3))
      put({
        to: lanPrefix(random.pick(hosts)),
        via: linkAddress(random.below(linkCount), 1 + random.below(3)),
        ...metric(),
      });
    if (random.chance(0.2)) put({ to: lanPrefix(random.below(6)), discard: random.pick(["drop", "reject"]) });
    if (random.chance(0.2))
      put({ to: lanPrefix(random.below(6)), via: lanAddress(random.below(6), 1), resolve: "any" });
    if (random.chance(0.2)) put({ to: lanPrefix(random.below(6)), out: random.pick(neighbours[d]).out });
    if (random.chance(0.2))
      put({ to: lanPrefix(random.pick(hosts)), via: random.pick(neighbours[d]).address, enabled: false });
  }
  const flows = hosts.flatMap((a) =>
    hosts.filter((b) => b !== a).map((b) => ({ id: `h${a}-h${b}`, from: `h${a}`, to: `h${b}` })),
  );
  const reading = readPlan({ ironFork: 1, name: `random ${seed}`, devices, links, flows });
  if (!reading.ok)
    throw new Error(reading.errors.map((error) => `${error.path}: ${error.message}`).join("; "));
  return reading.plan;
}
