import type { Network } from "../network/index.ts";
import type { GatewayRecord } from "../walk/index.ts";

/** An overloaded gateway or link with its demand and capacity in Mbit/s (rule 19). */
interface TooMuch {
  readonly kind: "gateway" | "link";
  readonly index: number;
  readonly mbps: number;
  readonly room: number;
}

/** Its name, as findings and pages call it. */
export function crowdedName(
  network: Network,
  gateways: readonly GatewayRecord[],
  { kind, index }: Pick<TooMuch, "kind" | "index">,
): string {
  const label =
    kind === "gateway" ? gateways[index].id : (network.links.ids[index] ?? bundleName(network, index));
  return `${kind} ${label}`;
}

/** "the gateway backup must carry 140 Mbit/s of flow mail, flow calls but has 100". */
export function crowdedText(
  network: Network,
  gateways: readonly GatewayRecord[],
  over: TooMuch,
  flows: readonly string[],
): string {
  return `the ${crowdedName(network, gateways, over)} must carry ${rounded(over.mbps)} Mbit/s of ${flows.map((flow) => `flow ${flow}`).join(", ")} but has ${rounded(over.room)}`;
}

const rounded = (mbps: number) => Number(mbps.toFixed(2));

function bundleName({ links, interfaces, devices }: Network, link: number): string {
  const end = links.ends[links.endStart[link]];
  return `bundle ${devices[interfaces.device[end]].id}/${interfaces.names[end]}`;
}
