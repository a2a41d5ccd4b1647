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

function notWritten({ routes, interfaces }: Device): string[] {
  const built = interfaces.flatMap(({ name, members, parent, vlan, virtual }) => [
    ...(members ? [`# not written: ${name} as a bundle of ${members.join(", ")}`] : []),
    ...(parent !== undefined ? [`# not written: ${name} as VLAN ${vlan} of ${parent}`] : []),
    ...(virtual?.length
      ? [`# not written: the virtual routers ${virtual.map(({ id }) => id).join(", ")} on ${name}`]
      : []),
  ]);
  const notOfRoutes = routes
    .filter(({ enabled }) => enabled !== false)
    .flatMap(({ to, toVrf, viaFrom, watch }) => [
      ...(toVrf || viaFrom
        ? [`# not written: ${to} ${toVrf ? `in VRF ${toVrf}` : `by the gateway assigned on ${viaFrom}`}`]
        : []),
      ...(watch ? [`# the watch ${watch} of ${to} is not written: not supported by iproute2`] : []),
    ]);
  return [...built, ...notOfRoutes];
}
