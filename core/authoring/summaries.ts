import {
  type Address,
  comparePrefix,
  containsAddress,
  containsPrefix,
  formatPrefix,
  overlaps,
  type Prefix,
  parsePrefix,
  samePrefix,
  splitByOwner,
  summarise,
} from "../address/index.ts";
import { candidateOf, type Impact, impactOf, RouteSteps } from "../impact/index.ts";
import { findNeighbour } from "../network/index.ts";
import { type Change, describeRoute, type Edit, routeIdentity, type StaticRoute } from "../plan/index.ts";
import { attachedNetworks } from "../reports/index.ts";
import { nextHopsOf } from "../routes/index.ts";
import type { Scenario } from "../scenario/index.ts";
import { type FlowQuestion, flatTrips, type World } from "../walk/index.ts";

/** A segment of the ruler and its content. */
export interface RulerPart {
  prefix: string;
  kind: "route" | "elsewhere" | "unowned";
  /** Owners, or the route. */
  by: string[];
}

/** A way of writing the chosen routes shorter. */
export interface SummaryOption {
  kind: "exact" | "single";
  prefixes: string[];
  /** Ranges it covers besides the chosen routes. */
  swallows: RulerPart[];
  edit: Edit;
  /** The changes in order, each with the flows that would not work between it and the next. */
  steps: { breaks: string[] }[];
  /** Routes in the device's table less than before. */
  saved: number;
  /** Its impact: owned ranges, unowned ranges, and flows. */
  owned: Impact["ranges"];
  unowned: Impact["ranges"];
  flows: Impact["flows"];
}

export interface SummaryAnswer {
  /** The chosen routes, as written. */
  routes: StaticRoute[];
  /** Why the routes cannot be summarized; "" if they can. */
  obstacle: string;
  /** The segment that the ruler shows, and its parts in ascending order. */
  ruler: { prefix: string; parts: RulerPart[] } | null;
  options: SummaryOption[];
}

/** The routes of a device inside a block; without a block, all routes that match the first one. */
export function routesWithin(scenario: Scenario, device: string, block: string): StaticRoute[] {
  const outer = parsePrefix(block);
  const own = scenario.engine.network.plan.devices.find((d) => d.id === device);
  if (!own || !outer) return [];
  return own.routes.filter((route) => {
    const prefix = parsePrefix(route.to);
    return prefix && prefix.length > 0 && containsPrefix(outer, prefix) && forwards(route);
  });
}

function forwards(route: StaticRoute): boolean {
  return !route.discard && !route.toVrf && route.enabled !== false;
}

/** What routes of a device can be written as, what that would cover, and the edit that does it. */
export function summaryOf(scenario: Scenario, device: string, identities: readonly string[]): SummaryAnswer {
  const own = scenario.engine.network.plan.devices.find((d) => d.id === device);
  const routes = (own?.routes ?? []).filter((route) => identities.includes(routeIdentity(route)));
  const answer: SummaryAnswer = { routes, obstacle: "", ruler: null, options: [] };
  const prefixes = routes.map((route) => parsePrefix(route.to) as Prefix);
  const obstacle = obstacleTo(routes, prefixes);
  if (!own || obstacle) return { ...answer, obstacle };
  const { exact, single } = summarise(prefixes);
  if (!single) return { ...answer, obstacle: "IPv4 and IPv6 routes have no common summary" };
  const networks = attachedNetworks(scenario.engine.network.plan);
  const ruler = {
    prefix: formatPrefix(single.prefix),
    parts: [
      ...routes.map(
        (route): RulerPart => ({ prefix: route.to, kind: "route", by: [route.via ?? route.out ?? ""] }),
      ),
      ...partsOf(single.swallows, networks),
    ].sort((a, b) => compareTexts(a.prefix, b.prefix)),
  };
  const options: SummaryOption[] = [];
  if (exact.length < routes.length) options.push(optionOf("exact", exact, []));
  if (exact.length !== 1 || exact.length >= routes.length) {
    if (!routes.some((route) => samePrefix(parsePrefix(route.to) as Prefix, single.prefix)))
      options.push(optionOf("single", [single.prefix], partsOf(single.swallows, networks)));
  }
  return { ...answer, ruler, options };

  function optionOf(
    kind: SummaryOption["kind"],
    wanted: readonly Prefix[],
    swallows: RulerPart[],
  ): SummaryOption {
    const edit = summaryEdit(scenario, device, routes, wanted, swallows.length > 0);
    const outcome = impactOf(scenario, edit);
    const ranges = outcome.ok ? outcome.effect.ranges : [];
    const isOwned = ranges.map(({ range }) => {
      const prefix = parsePrefix(range) as Prefix;
      return networks.some((network) => overlaps(network.prefix, prefix));
    });
    return {
      kind,
      prefixes: wanted.map(formatPrefix),
      swallows,
      edit,
      steps: breaksOfSteps(scenario, edit),
      saved: edit.changes.reduce(
        (sum, change) =>
          "device" in change && change.device === device
            ? sum + Number(!change.after) - Number(!change.before)
            : sum,
        0,
      ),
      owned: ranges.filter((_, n) => isOwned[n]),
      unowned: ranges.filter((_, n) => !isOwned[n]),
      flows: outcome.ok ? outcome.effect.flows : [],
    };
  }
}

function obstacleTo(routes: readonly StaticRoute[], prefixes: readonly Prefix[]): string {
  if (routes.length < 2) return "choose at least two routes";
  const odd = routes.find((route) => !forwards(route));
  if (odd) return `${describeRoute(odd)} has no next hop`;
  const manner = ({ to: _to, note: _note, ...rest }: StaticRoute) =>
    JSON.stringify(rest, Object.keys(rest).sort());
  const other = routes.find((route) => manner(route) !== manner(routes[0]));
  if (other)
    return `${describeRoute(routes[0])} and ${describeRoute(other)} differ in more than their destination: only routes with the same next hop, distance, metric and watch can be summarized`;
  const families = new Set(prefixes.map((prefix) => prefix.address.family));
  return families.size > 1 ? "IPv4 and IPv6 routes have no common summary" : "";
}

function partsOf(swallows: readonly Prefix[], networks: ReturnType<typeof attachedNetworks>): RulerPart[] {
  const { owned, unowned } = splitByOwner(swallows, networks);
  return [
    ...owned.map(
      ({ prefix, by }): RulerPart => ({ prefix: formatPrefix(prefix), kind: "elsewhere", by: [...by] }),
    ),
    ...unowned.map((prefix): RulerPart => ({ prefix: formatPrefix(prefix), kind: "unowned", by: [] })),
  ];
}

function compareTexts(a: string, b: string): number {
  const [x, y] = [parsePrefix(a) as Prefix, parsePrefix(b) as Prefix];
  return comparePrefix(x, y);
}

/** The edit in an order without a gap: what discards the rest first, then the summary, then the specifics out. */
function summaryEdit(
  scenario: Scenario,
  device: string,
  routes: readonly StaticRoute[],
  wanted: readonly Prefix[],
  wider: boolean,
): Edit {
  const own = scenario.engine.network.plan.devices.find((d) => d.id === device);
  const { note: _note, ...manner } = routes[0];
  const texts = wanted.map(formatPrefix);
  const kept = (to: string) => routes.some((route) => route.to === to);
  const added = texts
    .filter((to) => !kept(to))
    .map(
      (to): Change => ({
        in: "device",
        device,
        collection: "routes",
        before: null,
        after: { ...manner, to },
      }),
    );
  const removed = routes
    .filter((route) => !texts.includes(route.to))
    .map((route): Change => ({ in: "device", device, collection: "routes", before: route, after: null }));
  const discards = wider ? discardsBehind(scenario, device, routes[0], texts) : [];
  return {
    label: `Replace ${routes.length} routes with ${texts.join(", ")} on ${own?.label ?? device}`.slice(
      0,
      300,
    ),
    changes: [...discards, ...added, ...removed],
  };
}

/** Discard routes for the summary on the device behind the next hop, where it has none of that prefix. */
function discardsBehind(
  scenario: Scenario,
  device: string,
  route: StaticRoute,
  prefixes: readonly string[],
): Change[] {
  const { network, healthy } = scenario.engine;
  const c = candidateOf(network, device, null, route);
  const [hop] = c < 0 ? [] : nextHopsOf(network, healthy.world.tablesOf(network.candidates.device[c]), c);
  const next = hop ? findNeighbour(healthy.world.state, hop.out, hop.address, hop.peer).interface : -1;
  if (next < 0) return [];
  const far = network.devices[network.interfaces.device[next]];
  if (far.role === "host" || far.role === "internet" || far.role === "provider") return [];
  const has = (to: string) => network.plan.devices[far.index].routes.some((r) => r.to === to);
  return prefixes
    .filter((to) => !has(to))
    .map(
      (to): Change => ({
        in: "device",
        device: far.id,
        collection: "routes",
        before: null,
        after: { to, discard: "drop", note: "parts of the summary without an owner" },
      }),
    );
}

/** Applies the changes of an edit one at a time and lists the working flows that each step breaks. */
export function breaksOfSteps(scenario: Scenario, edit: Edit): SummaryOption["steps"] {
  const trips = flatTrips(scenario.network);
  const working = scenario
    .flows()
    .filter(({ question }) => trips.verdictOf(scenario.world, question) === "works");
  const inNumbers = stepsInNumbers(scenario, edit, working);
  if (inNumbers) return inNumbers;
  let now = scenario;
  return edit.changes.map((change) => {
    const outcome = now.afterEdit({ label: "step", changes: [change] });
    if (!outcome.ok) return { breaks: [outcome.errors[0].message] };
    now = outcome.scenario;
    return { breaks: brokenIn(now.world, working) };
  });
}

/** The same without compiling each state; null where that cannot be done. */
function stepsInNumbers(
  scenario: Scenario,
  edit: Edit,
  working: readonly FlowQuestion[],
): SummaryOption["steps"] | null {
  const steps = RouteSteps.of(scenario, edit);
  if (!steps) return null;
  const trips = flatTrips(steps.scenario.network);
  const fare = (world: World, { flow, question }: FlowQuestion): FlowState => ({
    name: flow.label ?? flow.id,
    works: trips.verdictOf(world, question) === "works",
    bore: trips.addressesBorne(),
  });
  let world = steps.worldAfter(0);
  if (!world) return null;
  // What passes none of the devices that are edited goes on as it does.
  const passing: { asked: FlowQuestion; now: FlowState }[] = [];
  for (const asked of working) {
    const now = fare(world, asked);
    if ([...trips.devicesPassed()].some((device) => steps.devices.has(device))) passing.push({ asked, now });
  }
  const told: SummaryOption["steps"] = [];
  for (let count = 1; count <= edit.changes.length; count++) {
    const next = steps.worldAfter(count);
    if (!next) return null;
    const changed = steps.changedBetween(world, next);
    for (const flow of passing) if (isAffected(flow.now, changed)) flow.now = fare(next, flow.asked);
    told.push({ breaks: passing.flatMap(({ now }) => (now.works ? [] : [now.name])) });
    world = next;
  }
  return told;
}

/** A flow's result in one state, and the addresses that devices looked up along its path; null if any address may have
 * been. */
interface FlowState {
  readonly name: string;
  readonly works: boolean;
  readonly bore: ReadonlySet<Address> | null;
}

/** Whether changing the routes to some prefixes can affect a flow. */
function isAffected({ bore }: FlowState, changed: readonly Prefix[]): boolean {
  return (
    changed.length > 0 &&
    (!bore || changed.some((prefix) => [...bore].some((address) => containsAddress(prefix, address))))
  );
}

function brokenIn(world: World, flows: readonly FlowQuestion[]): string[] {
  const trips = flatTrips(world.state.network);
  return flows
    .filter(({ question }) => trips.verdictOf(world, question) !== "works")
    .map(({ flow }) => flow.label ?? flow.id);
}

/** Groups of a device's routes that go the same way and are worth summarising, the largest first. */
export function groupsAlike(scenario: Scenario, device: string): StaticRoute[][] {
  const own = scenario.engine.network.plan.devices.find((d) => d.id === device);
  const groups = new Map<string, StaticRoute[]>();
  for (const route of own?.routes ?? []) {
    const prefix = parsePrefix(route.to);
    if (!prefix || prefix.length === 0 || !forwards(route)) continue;
    const { to: _to, note: _note, ...manner } = route;
    const key = `${prefix.address.family} ${JSON.stringify(manner, Object.keys(manner).sort())}`;
    groups.set(key, [...(groups.get(key) ?? []), route]);
  }
  return [...groups.values()].filter((group) => group.length > 1).sort((a, b) => b.length - a.length);
}
