import {
  formatPrefix,
  type Prefix,
  parseInterfaceAddress,
  prefixOf,
  splitByOwner,
  summarise,
} from "../address/index.ts";
import type { Plan } from "../plan/index.ts";
import type { SummaryReport } from "./schemas.ts";

/** What prefixes can be written as; with a plan, what the single prefix would cover there. */
export function summaryReport(prefixes: readonly Prefix[], plan?: Plan): SummaryReport {
  const { exact, single } = summarise(prefixes);
  const texts = (list: readonly Prefix[]) => list.map(formatPrefix);
  if (!single) return { exact: texts(exact), single: null };
  const report = { prefix: formatPrefix(single.prefix), swallows: texts(single.swallows) };
  if (!plan) return { exact: texts(exact), single: report };
  const { owned, unowned } = splitByOwner(single.swallows, attachedNetworks(plan));
  return {
    exact: texts(exact),
    single: {
      ...report,
      elsewhere: owned.map((entry) => ({ prefix: formatPrefix(entry.prefix), by: entry.by })),
      unowned: texts(unowned),
    },
  };
}

/** The subnets of all interfaces, each with the device that is attached. */
export function attachedNetworks(plan: Plan): { prefix: Prefix; owner: string }[] {
  return plan.devices.flatMap((device) =>
    device.interfaces.flatMap((port) =>
      port.addresses.flatMap((text) => {
        const read = parseInterfaceAddress(text);
        return read ? [{ prefix: prefixOf(read.address, read.length), owner: device.id }] : [];
      }),
    ),
  );
}
