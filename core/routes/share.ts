import type { DeviceRecord, Network } from "../network/index.ts";
import { AnswerCache, type DeviceTables } from "./device-tables.ts";
import type { LocalState } from "./tables.ts";

/** Whether a device has the same candidates in two networks, its interfaces the same among them, and sees the same of itself in both. */
export function sameView(
  a: { readonly network: Network; readonly local: LocalState; readonly firstSlot: Int32Array },
  b: { readonly network: Network; readonly local: LocalState; readonly firstSlot: Int32Array },
  device: number,
): boolean {
  if (device >= a.network.devices.length) return false;
  if (a.network.layouts[device].groupStart !== b.network.layouts[device].groupStart) return false;
  if (a.network.plan.devices[device] !== b.network.plan.devices[device]) return false;
  const [one, other] = [a.network.devices[device], b.network.devices[device]];
  const alike = (x: Uint8Array, y: Uint8Array, from: number, at: number, count: number) => {
    for (let n = 0; n < count; n++) if (x[from + n] !== y[at + n]) return false;
    return true;
  };
  const { firstInterface, endInterface, firstWatch, endWatch } = one;
  const [slot, otherSlot] = [a.firstSlot[device], b.firstSlot[device]];
  return (
    alike(
      a.local.interfaceUp,
      b.local.interfaceUp,
      firstInterface,
      other.firstInterface,
      endInterface - firstInterface,
    ) &&
    alike(a.local.watchUp, b.local.watchUp, firstWatch, other.firstWatch, endWatch - firstWatch) &&
    alike(a.local.answers, b.local.answers, slot, otherSlot, a.firstSlot[device + 1] - slot)
  );
}

/**
 * The tables of a device in another network in which it is the same and sees the same; only its numbers are others.
 * `sameInterfaces`: whether all interfaces of both networks have the same numbers.
 */
export function renumbered(like: DeviceTables, device: DeviceRecord, sameInterfaces: boolean): DeviceTables {
  const candidates = device.firstCandidate - like.device.firstCandidate;
  const groups = device.firstGroup - like.device.firstGroup;
  const sameWatches = device.firstWatch === like.device.firstWatch;
  if (candidates === 0 && groups === 0 && sameWatches && sameInterfaces) return { ...like, device };
  const circles = [...like.circles].map(([c, chain]): [number, number[]] => [
    c + candidates,
    chain.map((link) => link + candidates),
  ]);
  return {
    ...like,
    device,
    detail: shifted(like.detail, candidates),
    through: shifted(like.through, groups),
    circles: new Map(circles),
    answered: new AnswerCache(),
    sends: sameInterfaces ? like.sends : { kept: null },
  };
}

function shifted(numbers: Int32Array, by: number): Int32Array {
  if (by === 0) return numbers;
  const list = numbers.slice();
  for (let i = 0; i < list.length; i++) if (list[i] >= 0) list[i] += by;
  return list;
}
