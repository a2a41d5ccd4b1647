import { interfaceName, interfaceWritten } from "../../network/index.ts";
import type { Interface } from "../../plan/index.ts";
import type { Check, Report } from "../check.ts";
import type { Context } from "../context.ts";

const settings = { minUp: 1, lacp: "slow" } as const;
const words = { minUp: "least number of members", lacp: "LACP" } as const;

/** The two ends of a bundle have other settings: one goes down before the other, or notices later (rule 15.1). */
export const bundleSettingsDiffer: Check = {
  code: "bundle-settings-differ",
  title: "The ends of a bundle have different settings",
  consequence: "on-failure",
  severity: "warning",
  run: (context) => {
    const { network } = context;
    const { interfaces, bundles } = network;
    return bundles.flatMap(({ interface: i, leads }): Report[] => {
      const far = new Set(leads.flat().map((end) => interfaces.memberOf[end]));
      const [other] = far;
      // Told once, on the end that comes first.
      if (far.size !== 1 || other === undefined || other < 0 || bundles[other].interface < i) return [];
      const j = bundles[other].interface;
      const [here, there] = [i, j].map((one) => interfaceWritten(network, one));
      const differing = (Object.keys(settings) as (keyof typeof settings)[]).filter(
        (key) => (here[key] ?? settings[key]) !== (there[key] ?? settings[key]),
      );
      return differing.map((key) => ({
        device: network.devices[interfaces.device[i]].id,
        subject: `${interfaces.names[i]} ${key}`,
        text: `The ends of a bundle differ in ${words[key]}: ${interfaceName(network, i)} has ${here[key] ?? settings[key]}, ${interfaceName(network, j)} has ${there[key] ?? settings[key]}.`,
        evidence: [i, j].map((one) => ({
          kind: "interface" as const,
          interface: interfaceName(network, one),
        })),
        fixes: [settingFix(context, j, there, key, here[key]), settingFix(context, i, here, key, there[key])],
      }));
    });
  },
};

function settingFix(
  { network }: Context,
  i: number,
  before: Interface,
  key: keyof typeof settings,
  value: Interface[keyof typeof settings],
) {
  const device = network.devices[network.interfaces.device[i]].id;
  const { [key]: _old, ...rest } = before;
  const after = value === undefined ? rest : { ...rest, [key]: value };
  return {
    label: `Set ${words[key]} of ${interfaceName(network, i)} to ${value ?? settings[key]}`,
    changes: [{ in: "device" as const, device, collection: "interfaces" as const, before, after }],
  };
}
