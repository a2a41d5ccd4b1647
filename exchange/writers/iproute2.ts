import type { Device, Plan } from "../../core/plan/index.ts";
import { batchOf } from "./batch.ts";
import { kernelOf, tablesOf } from "./kernel.ts";
import type { OutputFile } from "./output-file.ts";

/** A batch for `ip -batch` for each device: addresses, VRFs, routes, rules. What it cannot carry stands in comments. */
export function iproute2Files(plan: Plan, devices: readonly Device[]): OutputFile[] {
  return devices.map((device) => {
    const lines = [
      `# ${(device.label ?? device.id).replaceAll(/\s+/g, " ")}`,
      ...batchOf(kernelOf(plan, device, tablesOf(device))),
      ...notWritten(device),
    ];
    return { name: `${device.id}.batch`, text: `${lines.join("\n")}\n` };
  });
}

function notWritten({ routes }: Device): string[] {
  return routes
    .filter(({ enabled }) => enabled !== false)
    .flatMap(({ to, toVrf, viaFrom, watch }) => [
      ...(toVrf || viaFrom
        ? [`# not written: ${to} ${toVrf ? `in VRF ${toVrf}` : `by the gateway of ${viaFrom}`}`]
        : []),
      ...(watch ? [`# the watch ${watch} of ${to} is not written: this system has no such thing`] : []),
    ]);
}
