import { formatAddress } from "../core/address/index.ts";
import { compile } from "../core/network/index.ts";
import type { Plan } from "../core/plan/index.ts";
import { portName } from "./names.ts";
import { partOf } from "./parts.ts";

/** A tunnel's end as the kernel can have it: a VXLAN (RFC 7348) towards the one other end. */
export interface LabTunnel {
  /** The interface, as an end in the plan that is built. */
  readonly end: string;
  /** What the interface is called in its device. */
  readonly name: string;
  /** The device, or the VRF of one, by whose tables its outer packets go. */
  readonly under: string;
  /** Where these leave from; null for what the kernel chooses. */
  readonly from: string | null;
  readonly to: string;
  /** Alike at both ends, and at no other's. */
  readonly number: number;
  /** 0 for none. */
  readonly keepaliveMs: number;
  readonly failAfter: number;
}

/** What a tunnel is made of in the namespace of its underlay: the VXLAN, a bridge, and the port whose other end is the interface. */
export const partsOfTunnel = (position: number) => ({
  vxlan: `tx${position}`,
  bridge: `tb${position}`,
  port: `tp${position}`,
});

/** The tunnels of a plan whose two ends know each other. Where anybody filters, what carries them would be taken for something else. */
export function tunnelsOf(plan: Plan): LabTunnel[] {
  if (plan.devices.some(({ policy }) => policy !== undefined)) return [];
  const { devices, interfaces, tunnels } = compile(plan);
  const peerOf = (index: number) => {
    const { peer } = tunnels[index];
    return peer < 0 ? -1 : interfaces.tunnel[peer];
  };
  return tunnels.flatMap(({ index, interface: i, from, to, vrf, keepaliveMs, failAfter }): LabTunnel[] => {
    const peer = peerOf(index);
    if (peer < 0 || peerOf(peer) !== index) return [];
    const device = devices[interfaces.device[i]];
    const name = interfaces.names[i];
    return [
      {
        end: `${partOf(device.id, device.vrfs[interfaces.vrf[i]])}/${name}`,
        name: portName(name),
        under: partOf(device.id, device.vrfs[vrf]),
        from: from && formatAddress(from),
        to: formatAddress(to),
        number: Math.min(index, peer) + 1,
        keepaliveMs,
        failAfter,
      },
    ];
  });
}
