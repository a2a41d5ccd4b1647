import type { Device, Plan } from "../../core/plan/index.ts";
import { batchOf, OF_IPV6 } from "./batch.ts";
import { kernelOf, tablesOf } from "./kernel.ts";
import { nftablesFiles } from "./nftables.ts";
import type { OutputFile } from "./output-file.ts";

/**
 * For each device a file for `ip -batch`: addresses, VRFs, routes, rules; and if it has IPv6 rules, one for `ip -6 -batch`, to be
 * run after it; for translation and marks, which iproute2 does not know, one for `nft -f`. What cannot be written stands in comments.
 */
export function iproute2Files(plan: Plan, devices: readonly Device[]): OutputFile[] {
  return devices.flatMap((device) => {
    const title = `# ${(device.label ?? device.id).replaceAll(/\s+/g, " ")}`;
    const lines = batchOf(kernelOf(plan, device, tablesOf(device)));
    const ofIpv6 = lines.filter((line) => line.startsWith(OF_IPV6));
    const common = lines.filter((line) => !line.startsWith(OF_IPV6));
    const file = (name: string, all: readonly string[]) => ({ name, text: `${all.join("\n")}\n` });
    return [
      file(`${device.id}.batch`, [title, ...common, ...notWritten(device)]),
      ...(ofIpv6.length > 0
        ? [
            file(`${device.id}.ipv6.batch`, [
              `${title}, for ip -6 -batch`,
              ...ofIpv6.map((line) => line.slice(OF_IPV6.length)),
            ]),
          ]
        : []),
      ...nftablesFiles([device]),
    ];
  });
}

function notWritten(device: Device): string[] {
  const { routes, interfaces, policyTables, policy } = device;
  const built = interfaces.flatMap(({ name, members, parent, vlan, virtual, proxyArp }) => [
    ...(proxyArp ? [`# not written: proxy ARP on ${name}`] : []),
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
  const overlays = policyTables
    .filter(({ lookup }) => lookup === "overlay")
    .map(
      ({ name }) => `# not written: the lookup of table ${name} together with main; its rules ask it first`,
    );
  const others = policy ? ["# not written: the policy between zones"] : [];
  return [...built, ...notOfRoutes, ...overlays, ...others];
}
