import type { Network } from "../../network/index.ts";
import { type Device, differencePlans, type Plan } from "../../plan/index.ts";
import type { Check } from "../check.ts";

/** Two devices that should be one, and are not written alike: what works by the one does not by the other (rule 17). */
export const pairDiffers: Check = {
  code: "pair-differs",
  title: "Members of a pair are configured differently",
  consequence: "on-failure",
  severity: "warning",
  run: (context) => {
    const { plan } = context.network;
    return plan.pairs.flatMap((pair) => {
      const [active, standby] = [...pair.members]
        .sort((a, b) => Number(b === pair.active) - Number(a === pair.active))
        .map((id) => plan.devices.find((device) => device.id === id) as Device);
      const wanted = asTwin(active, standby, sharedNames(context.network, standby));
      const changes = differencePlans(only(plan, standby), only(plan, wanted));
      if (changes.length === 0) return [];
      const what = [
        ...new Set(
          changes.map(
            (change) => ("collection" in change ? nouns[change.collection] : undefined) ?? change.in,
          ),
        ),
      ];
      return [
        {
          device: standby.id,
          subject: pair.id,
          text: `The members of the pair ${pair.id} should be identical, but ${standby.id} differs from ${active.id}: ${what.join(", ")}.`,
          evidence: [],
          fixes: [{ label: `Make ${standby.id} identical to ${active.id}`, changes }],
        },
      ];
    });
  },
};

const nouns: Readonly<Record<string, string | undefined>> = {
  routes: "routes",
  policyTables: "policy tables",
  sourceNat: "translations",
  interfaces: "shared interfaces",
};

/** The standby as it should be: shared interfaces, routes, policy and translation of the active member. */
function asTwin(active: Device, standby: Device, sharing: ReadonlySet<string>): Device {
  const names = new Set(standby.interfaces.map(({ name }) => name));
  const shared = new Map(
    active.interfaces.filter(({ name }) => sharing.has(name)).map((port) => [port.name, port]),
  );
  const interfaces = standby.interfaces.map((port) => {
    const { zone, vrf } = shared.get(port.name) ?? port;
    const { zone: _z, vrf: _v, ...rest } = port;
    return { ...rest, ...(zone === undefined ? {} : { zone }), ...(vrf === undefined ? {} : { vrf }) };
  });
  const leaves = (name: string | undefined) => name === undefined || names.has(name);
  const watched = new Set(standby.watches.map(({ id }) => id));
  const routes = active.routes.filter(
    (route) => leaves(route.out) && (!route.watch || watched.has(route.watch)),
  );
  const { policy: _policy, ...rest } = standby;
  return {
    ...rest,
    interfaces,
    routes,
    sourceNat: active.sourceNat.filter((nat) => leaves(nat.out)),
    ...(active.policy && { policy: active.policy }),
  };
}

/** The names of the interfaces that a device shares with the other one of its pair. */
function sharedNames({ devices, interfaces, twin }: Network, { id }: Device): ReadonlySet<string> {
  const names = new Set<string>();
  const device = devices.find((record) => record.id === id);
  if (!device) return names;
  for (let i = device.firstInterface; i < device.endInterface; i++)
    if (twin[i] >= 0) names.add(interfaces.names[i]);
  return names;
}

function only(plan: Plan, device: Device): Plan {
  return { ...plan, devices: [device] };
}
