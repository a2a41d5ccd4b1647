import type { TableCheck } from "../../../core/steps/index.ts";
import type { ReadLine } from "../../engine/device-readings.server.ts";

/** What a device must say for a check to hold: its next hop alone where it has one, for devices tell interfaces by names of their own. */
const plain = (manner: string) => (manner.startsWith("via ") ? manner.split(/\s/, 2).join(" ") : manner);

/** Whether the reading of a device matches a check. */
export function agrees(check: TableCheck, line: ReadLine): boolean {
  const [wanted, seen] = [check.inUse, line.inUse].map((list) => [...new Set(list.map(plain))].sort().join());
  return wanted === seen;
}
