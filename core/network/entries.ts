import {
  type Address,
  type Family,
  hostPrefix,
  type Prefix,
  parseAddress,
  prefixOf,
  samePrefix,
} from "../address/index.ts";
import { addTo } from "../collections/index.ts";
import type { Device, Plan } from "../plan/index.ts";
import { type Entry, plainEntry, type Settled } from "./entry.ts";
import type { Ports } from "./interfaces.ts";
import { actionCodes, addressAt, sourceCodes } from "./network.ts";
import { handedOut, system } from "./offered.ts";
import { Attached } from "./subnets.ts";
import { learnedEntry, writtenEntry, writtenInVrf } from "./written.ts";
/** All candidates of one device (rules 3.1 to 3.4, 7.3, 7.4, 8), with faults that no outage changes (rule 4).
 * Independent candidates are generated one at a time, so a large table never exists as objects. */
export function entriesOf(plan: Plan, device: Device, settled: Settled, ports: Ports): Iterable<Entry> {
  const { secondDefault, deadGatewayMs } = settled.profile;
  const made = makeEntries(plan, device, settled, ports);
  if (secondDefault !== "refuse" && !deadGatewayMs) return made;
  const entries = [...made];
  if (secondDefault === "refuse") refuseSecondDefaults(entries);
  if (deadGatewayMs) watchGateways(entries);
  return entries;
}

function* makeEntries(plan: Plan, device: Device, settled: Settled, ports: Ports): Iterable<Entry> {
  const writer = {
    plan,
    device,
    settled,
    ports,
    attached: new Attached(ports, settled),
    watchPlaces: new Map(device.watches.map((watch, place) => [watch.id, place])),
    virtuals: virtualAddresses(device, ports),
    faults: new Map(),
  };
  yield* attached(settled, ports);
  for (let i = 0; i < device.routes.length; i++) yield writtenInVrf(writer, device.routes[i], i);
  for (const [i, route] of device.learned.entries()) yield learnedEntry(writer, route, i);
  yield* handedOut(device, settled, ports, plan);
  yield* system(settled, ports, plan);
  for (const table of settled.policyTables) {
    const routes = device.policyTables.find((t) => t.name === table.name)?.routes ?? [];
    // Routes of a policy table stand in that table alone; their next hops resolve in its VRF.
    for (const [i, route] of routes.entries()) yield writtenEntry(writer, route, table.table, table.vrf, i);
  }
}

function virtualAddresses({ id, interfaces }: Device, { interfaceIndex }: Ports) {
  return interfaces.flatMap(({ name, virtual = [] }) =>
    virtual.flatMap(({ addresses }) =>
      addresses.map((text) => ({
        interface: interfaceIndex.get(`${id}/${name}`) as number,
        address: parseAddress(text) as Address,
      })),
    ),
  );
}

/** Rules 3.1 and 6.1: a local route for every address, and a connected one for every subnet of an interface. */
function attached(settled: Settled, ports: Ports): Entry[] {
  const { interfaces, addresses } = ports;
  const distance = settled.profile.staticDistance !== null ? 0 : -1;
  const entries: Entry[] = [];
  for (let i = settled.firstInterface; i < settled.endInterface; i++) {
    const subnets: Prefix[] = [];
    for (let k = interfaces.addressStart[i]; k < interfaces.addressStart[i + 1]; k++) {
      const address = addressAt(addresses.words, addresses.family[k] as Family, k);
      const subnet = prefixOf(address, addresses.length[k]);
      const add = (source: number, to: Prefix) => {
        const entry = plainEntry(interfaces.vrf[i], source, to, i);
        entry.distance = distance;
        entry.metric = settled.profile.addInterfaceMetric ? interfaces.metric[i] : 0;
        entry.order = k - interfaces.addressStart[settled.firstInterface];
        entries.push(entry);
      };
      add(sourceCodes.local, hostPrefix(address));
      // Several addresses of one subnet on one interface are one connected route.
      if (subnets.some((known) => samePrefix(known, subnet))) continue;
      subnets.push(subnet);
      add(sourceCodes.connected, subnet);
    }
  }
  return entries;
}

/**
 * Profile field secondDefault: the first default of a distance decides the interface, later ones are refused. What
 * the installation or a provider handed out was there before anything was written by hand.
 */
function refuseSecondDefaults(entries: readonly Entry[]) {
  const first = new Map<string, Entry>();
  const writtenOrHandedOut: number[] = [sourceCodes.static, sourceCodes.handedOut, sourceCodes.learned];
  const handedOutFirst = [
    ...entries.filter((entry) => entry.source === sourceCodes.handedOut),
    ...entries.filter((entry) => entry.source !== sourceCodes.handedOut),
  ];
  for (const entry of handedOutFirst) {
    if (entry.to.length !== 0 || !writtenOrHandedOut.includes(entry.source) || entry.fault) continue;
    if (entry.action !== actionCodes.forward) continue;
    const key = `${entry.table} ${entry.to.address.family} ${entry.distance}`;
    const earlier = first.get(key);
    if (!earlier) first.set(key, entry);
    else if (earlier.out !== entry.out) entry.fault = "second-default-refused";
  }
}

/** Rule 7.1: a sender with several gateways to one destination notices when one no longer answers. */
function watchGateways(entries: Entry[]) {
  const gateways = new Map<string, Entry[]>();
  for (const entry of entries) {
    if (!entry.via || entry.fault) continue;
    const key = `${entry.table} ${entry.to.address.family} ${entry.to.address.w0} ${entry.to.address.w1} ${entry.to.address.w2} ${entry.to.address.w3}/${entry.to.length}`;
    addTo(gateways, key, entry);
  }
  for (const list of gateways.values()) {
    if (list.length > 1) for (const entry of list) entry.needsAnswer = true;
  }
}
