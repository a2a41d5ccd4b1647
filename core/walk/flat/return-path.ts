import { actionCodes, type DeviceRecord } from "../../network/index.ts";
import { MAX_VRFS } from "../lookup.ts";
import { BRANCH, NONE, ROW, type Rows } from "./rows.ts";

/** Finds the row for a packet: its VRF, the way in, source and destination by number; -1 for none. */
export type Ask = (vrf: number, incoming: number, source: number, destination: number) => number;

/** As `passesReturnPath` (rule 6.2; RFC 3704), over rows. `onward` is the row that the packet follows, or -1. */
export function passesBack(
  { profile, policyTables }: DeviceRecord,
  rows: Rows,
  at: { readonly vrf: number; readonly in: number; readonly source: number; readonly destination: number },
  onward: number,
  ask: Ask,
): boolean {
  const { returnPath, returnPathDefault, returnPathTables } = profile;
  const asked = returnPathTables === "policy";
  const fits = (out: number, isDefault: boolean) =>
    returnPath === "strict" ? out === at.in : returnPathDefault || !isDefault;
  return (asked && policyTables.length > 0 ? outsOf(rows, onward) : [-1]).every((incoming) => {
    const back = (vrf: number) =>
      asked ? ask(vrf, incoming, at.destination, at.source) : ask(vrf, -1, NONE, at.source);
    return anyEnd(rows, back(at.vrf), back, fits, 0);
  });
}

/** Whether any next hop that a row comes to fits, in other VRFs where it leads there (rule 5.4). */
function anyEnd(
  rows: Rows,
  row: number,
  back: (vrf: number) => number,
  fits: (out: number, isDefault: boolean) => boolean,
  vrfs: number,
): boolean {
  if (row < 0 || vrfs > MAX_VRFS) return false;
  const isDefault = rows.cells[row + ROW.length] === 0;
  const branches = rows.cells[row + ROW.branches];
  for (let b = 0; b < branches; b++) {
    const at = row + ROW.size + b * BRANCH.size;
    const action = rows.cells[at + BRANCH.action];
    if (action === actionCodes.vrf) {
      if (anyEnd(rows, back(rows.cells[at + BRANCH.detail]), back, fits, vrfs + 1)) return true;
    } else if (action === actionCodes.forward && fits(rows.cells[at + BRANCH.out], isDefault)) return true;
  }
  return false;
}

/** The interfaces that a row leads out of; -1 alone where it leads out of none. */
function outsOf(rows: Rows, row: number): number[] {
  const outs = new Set<number>();
  const branches = row < 0 ? 0 : rows.cells[row + ROW.branches];
  for (let b = 0; b < branches; b++) {
    const at = row + ROW.size + b * BRANCH.size;
    if (rows.cells[at + BRANCH.action] === actionCodes.forward) outs.add(rows.cells[at + BRANCH.out]);
  }
  return outs.size ? [...outs] : [-1];
}
