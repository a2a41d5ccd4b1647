import {
  containsAddress,
  isIpv6LinkLocal,
  parseAddress,
  parseInterfaceAddress,
  prefixOf,
} from "../../core/address/index.ts";
import type { DeviceDocument, ReadDevice } from "./device.ts";
import type { InferredLink } from "./links.ts";
import { idOf, interfaceNameOf, takeName } from "./names.ts";

/** A device known only as a next hop without an owner. */
export interface Outline {
  id: string;
  /** The link that it stands on. */
  link: string;
  addresses: string[];
  hardware: string | null;
  /** Who leads where by it. */
  because: string[];
}

/** Where a next hop would be: the interface towards it, with the length of the subnet that holds it. */
function towards(document: DeviceDocument, via: string, out: string | null) {
  const address = parseAddress(via);
  if (!address) return null;
  if (isIpv6LinkLocal(address)) {
    const name = out === null ? null : interfaceNameOf(out);
    return name !== null && document.interfaces.some((entry) => entry.name === name)
      ? { name, length: 64 }
      : null;
  }
  for (const entry of document.interfaces) {
    for (const text of entry.addresses) {
      const own = parseInterfaceAddress(text);
      if (
        own &&
        own.address.family === address.family &&
        containsAddress(prefixOf(own.address, own.length), address)
      ) {
        return { name: entry.name, length: own.length };
      }
    }
  }
  if (out !== null) return { name: interfaceNameOf(out), length: address.family === 4 ? 32 : 128 };
  return null;
}

/** Next hops without an owner become outlined devices on their link; those with one hardware address are one device. */
export function outlinesOf(
  devices: readonly ReadDevice[],
  links: InferredLink[],
): { outlines: Outline[]; documents: DeviceDocument[] } {
  const owned = new Set(
    devices.flatMap(({ document }) =>
      document.interfaces.flatMap((entry) => entry.addresses.map((own) => own.slice(0, own.indexOf("/")))),
    ),
  );
  const linkOf = new Map(links.flatMap((link) => link.ends.map((end) => [end, link] as const)));
  const taken = new Set([...devices.map(({ document }) => document.id), ...links.map(({ id }) => id)]);
  const found = new Map<string, Outline>();
  const documents = new Map<Outline, DeviceDocument>();
  for (const { collector, document } of devices) {
    const hardwareOf = new Map(
      collector.facts.neighbours.map((entry) => [`${entry.address}`, entry.hardware]),
    );
    for (const route of collector.facts.routes) {
      const { via, out, to } = route;
      if (via === null || owned.has(via) || route.discard !== null) continue;
      const place = towards(document, via, out);
      if (!place) continue;
      const end = `${document.id}/${place.name}`;
      let link = linkOf.get(end);
      if (!link) {
        link = {
          id: takeName(idOf(`${document.id}-${place.name}`), taken),
          ends: [end],
          because: [],
          certain: false,
        };
        links.push(link);
        linkOf.set(end, link);
      }
      const hardware = hardwareOf.get(via) ?? null;
      const key = `${link.id} ${hardware ?? via}`;
      let outline = found.get(key);
      if (!outline) {
        const id = takeName(`unknown-${idOf(via)}`, taken);
        outline = { id, link: link.id, addresses: [], hardware, because: [] };
        found.set(key, outline);
        documents.set(outline, outlined(outline));
        link.ends.push(`${id}/port`);
        link.because.push(`${via} is a next hop of ${document.id} that no file describes`);
      }
      const text = `${via}/${place.length}`;
      if (!outline.addresses.includes(text)) {
        outline.addresses.push(text);
        documents.get(outline)?.interfaces[0].addresses.push(text);
      }
      const because = `${document.id} reaches ${to} through it`;
      if (outline.because.length < 20 && !outline.because.includes(because)) outline.because.push(because);
    }
  }
  return { outlines: [...found.values()], documents: [...documents.values()] };
}

function outlined({ id, hardware, addresses }: Outline): DeviceDocument {
  const port = { name: "port", addresses: [...addresses], ...(hardware === null ? {} : { hardware }) };
  return {
    id,
    label: `Unknown ${id.slice("unknown-".length).replaceAll("-", ".")}`,
    role: "router",
    outline: true,
    note: "Outlined: a next hop that no file describes. Import its own output to complete it.",
    interfaces: [port],
    routes: [],
    learned: [],
    policyTables: [],
    sourceNat: [],
  };
}
