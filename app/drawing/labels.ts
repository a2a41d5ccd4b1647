import { formatAddress } from "../../core/address/index.ts";
import { addressesOf, endsOf, type Network } from "../../core/network/index.ts";

/** The label at each end of a link: the interface and its address. IPv4 addresses are shortened to the part that
 * differs between the ends, as on paper drawings: "wan1 .2". */
export function endLabels(network: Network, link: number): string[] {
  const { links, interfaces } = network;
  const ends = Array.from(endsOf(links, link));
  const four = ends.map((end) => addressesOf(network, end, 4)[0]);
  const texts = four.map((address) => (address ? formatAddress(address) : ""));
  const shared = sharedOctets(texts.filter((text) => text !== ""));
  return ends.map((end, i) => {
    if (texts[i])
      return `${interfaces.names[end]} ${shared > 0 ? "." : ""}${texts[i].split(".").slice(shared).join(".")}`;
    const six = addressesOf(network, end, 6)[0];
    return six ? `${interfaces.names[end]} ${formatAddress(six)}` : interfaces.names[end];
  });
}

/** How many leading octets all the addresses share, three at most. */
function sharedOctets(texts: readonly string[]): number {
  if (texts.length < 2) return 0;
  const octets = texts.map((text) => text.split("."));
  let shared = 0;
  while (shared < 3 && octets.every((own) => own[shared] === octets[0][shared])) shared++;
  return shared;
}
