import { formatAddress } from "../../core/address/index.ts";
import { onceFor } from "../../core/collections/index.ts";
import { addressesOf, endsOf, type Network } from "../../core/network/index.ts";

/** Links between the same two interfaces, by their construction: the members of a bundle, or tags on one interface. */
export interface Trunk {
  /** The name by which an address opens it. */
  readonly name: string;
  /** The links, in the order of the plan; the first is the one that is drawn for all. */
  readonly links: readonly string[];
  /** Whether each is written from the other end than the first. */
  readonly turned: readonly boolean[];
  /** The labels of its ends, from the first link: the common parent interface and its address. */
  readonly texts: readonly [string, string];
}

/** What all links of a kind begin with in an address; ids of pairs hold no such sign. */
const KIND = "lines:";

/** The links of a plan that can be drawn as one line, two or more each; computed once. */
export const trunksOf = onceFor((network: Network): readonly Trunk[] => {
  const { links } = network;
  const found = new Map<string, { links: string[]; turned: boolean[]; roots: [number, number] }>();
  for (let l = 0; l < links.planned; l++) {
    if (network.plan.links[l].ends.length !== 2) continue;
    const [a, b] = Array.from(endsOf(links, l), (end) => rootOf(network, end));
    const key = a < b ? `${a} ${b}` : `${b} ${a}`;
    const known = found.get(key);
    if (!known) found.set(key, { links: [links.ids[l]], turned: [false], roots: [a, b] });
    else {
      known.links.push(links.ids[l]);
      known.turned.push(known.roots[0] !== a);
    }
  }
  return [...found.values()]
    .filter((one) => one.links.length > 1)
    .map(({ links: ids, turned, roots: [a, b] }) => ({
      name: `${KIND}${ids[0]}`,
      links: ids,
      turned,
      texts: [textOf(network, a), textOf(network, b)],
    }));
});

/** The interface that another is built on, to the last: a tag's parent, a member's bundle. */
function rootOf({ interfaces, bundles }: Network, i: number): number {
  const parent = interfaces.parent[i];
  const below = parent < 0 ? i : parent;
  return interfaces.memberOf[below] < 0 ? below : bundles[interfaces.memberOf[below]].interface;
}

function textOf(network: Network, i: number): string {
  const name = network.interfaces.names[i];
  const [address] = addressesOf(network, i);
  return address ? `${name} ${formatAddress(address)}` : name;
}
