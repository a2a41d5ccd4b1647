import { formatPrefix } from "../address/index.ts";
import { type Device, deviceCollections, type StaticRoute, sameValue } from "../plan/index.ts";
import { differenceOf, prefixesOfRange, type RangeOutcome } from "../reachability/index.ts";
import type { Engine } from "../settle/index.ts";
import {
  carriersOfTrip,
  flowQuestions,
  type GatewayRecord,
  type World,
  walkBothWays,
} from "../walk/index.ts";
import { symmetryOf } from "./path.ts";
import type { DifferenceReport, OutcomeReport } from "./schemas.ts";

/** What differs between two plans: routes as written, ranges of addresses, and flows. */
export function differenceReport(before: Engine, after: Engine): DifferenceReport {
  const sides = [before, after].map(({ healthy, gateways }) => ({ world: healthy.world, gateways }));
  const ranges = differenceOf(sides[0], sides[1]).flatMap((change) =>
    prefixesOfRange(change.range).map((prefix) => ({
      range: formatPrefix(prefix),
      from: change.from,
      before: outcomeReport(sides[0], change.before),
      after: outcomeReport(sides[1], change.after),
    })),
  );
  return { routes: routeChanges(before, after), ranges, flows: flowChanges(before, after) };
}

/** The outcome of a range, by names. */
export function outcomeReport(
  { world, gateways }: { world: World; gateways: readonly GatewayRecord[] },
  outcome: RangeOutcome,
): OutcomeReport {
  const id = (device: number) => world.state.network.devices[device].id;
  return {
    result: outcome.result,
    at: id(outcome.at),
    code: outcome.code,
    carriers: outcome.carriers.map((g) => gateways[g].id),
    way: outcome.way.map(id),
  };
}

function routeChanges(before: Engine, after: Engine): DifferenceReport["routes"] {
  const named = (engine: Engine) =>
    new Map(
      engine.network.plan.devices.flatMap((device) =>
        tablesOf(device).flatMap(({ table, routes }) =>
          routes.map(
            (route) =>
              [
                `${device.id} ${table ?? ""} ${deviceCollections.routes.key(route)}`,
                { device: device.id, table, route },
              ] as const,
          ),
        ),
      ),
    );
  const [old, now] = [named(before), named(after)];
  const added = [...now].filter(([key]) => !old.has(key)).map(([, entry]) => entry);
  const removed = [...old].filter(([key]) => !now.has(key)).map(([, entry]) => entry);
  const changed = [...now].flatMap(([key, { device, table, route }]) => {
    const was = old.get(key);
    return was && !sameValue(was.route, route) ? [{ device, table, before: was.route, after: route }] : [];
  });
  return { added, removed, changed };
}

function tablesOf(device: Device): { table: string | null; routes: StaticRoute[] }[] {
  return [
    { table: null, routes: device.routes },
    ...device.policyTables.map((t) => ({ table: t.name, routes: t.routes })),
  ];
}

function flowChanges(before: Engine, after: Engine): DifferenceReport["flows"] {
  const outcomes = (engine: Engine) => {
    const { world } = engine.healthy;
    const { gateways } = engine;
    return new Map(
      flowQuestions(engine.network).map(({ flow, question }) => {
        const trip = walkBothWays(world, question);
        const carriers = carriersOfTrip(gateways, trip).map((g) => gateways[g].id);
        return [flow.id, { verdict: trip.verdict, carriers, symmetric: symmetryOf(trip) }] as const;
      }),
    );
  };
  const [old, now] = [outcomes(before), outcomes(after)];
  return [...new Set([...old.keys(), ...now.keys()])]
    .map((id) => ({ id, before: old.get(id) ?? null, after: now.get(id) ?? null }))
    .filter((entry) => !sameValue(entry.before, entry.after));
}
