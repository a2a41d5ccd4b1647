/** Documents that once cost more than anybody would wait for. */
interface CostlyDocument {
  readonly ironFork: 1;
  readonly name: string;
  readonly [key: string]: unknown;
}

const device = (id: string) => ({ id, role: "router", interfaces: [] as object[] });

/** Fully meshed routers, with a subnet per cable. */
export function mesh(count: number, name: string): CostlyDocument {
  const devices = Array.from({ length: count }, (_, i) => device(`r${i}`));
  const links: object[] = [];
  for (let a = 0; a < count; a++)
    for (let b = a + 1; b < count; b++) {
      const net = links.length * 4;
      const address = (n: number) => `10.${(net >> 16) & 255}.${(net >> 8) & 255}.${(net & 255) + n}/30`;
      devices[a].interfaces.push({ name: `p${b}`, addresses: [address(1)] });
      devices[b].interfaces.push({ name: `p${a}`, addresses: [address(2)] });
      links.push({ id: `l${a}-${b}`, ends: [`r${a}/p${b}`, `r${b}/p${a}`] });
    }
  return { ironFork: 1, name, devices, links };
}

/** Stars of many cables side by side. */
export function parallel(count: number, cables: number): CostlyDocument {
  const devices = Array.from({ length: count }, (_, i) => device(`r${i}`));
  const links = Array.from({ length: cables }, (_, n) => {
    const [a, b] = [0, 1 + (n % (count - 1))];
    devices[a].interfaces.push({ name: `p${n}` });
    devices[b].interfaces.push({ name: `p${n}` });
    return { id: `l${n}`, ends: [`r${a}/p${n}`, `r${b}/p${n}`] };
  });
  return { ironFork: 1, name: "stars of parallel cables", devices, links };
}

/** Profiles that each rest on the one before. */
export function chain(count: number): CostlyDocument {
  const profiles = Array.from({ length: count }, (_, i) => ({
    id: `p${i}`,
    ...(i > 0 && { base: `p${i - 1}` }),
  }));
  return { ironFork: 1, name: "chain", profiles, devices: [{ ...device("r"), profile: `p${count - 1}` }] };
}
