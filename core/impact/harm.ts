import {
  type Address,
  containsAddress,
  formatAddress,
  formatPrefix,
  isIpv6LinkLocal,
  type Prefix,
  parseAddress,
  parsePrefix,
  sameAddress,
  widthOf,
} from "../address/index.ts";
import { onceFor } from "../collections/index.ts";
import { failuresOf } from "../failures/index.ts";
import {
  addressesOf,
  addressOutside,
  attachmentsOf,
  findElement,
  formatElement,
  hasAddress,
  type Network,
} from "../network/index.ts";
import type { Edit, Role, StaticRoute } from "../plan/index.ts";
import { type AddressRange, differenceOf, families, prefixesOfRange } from "../reachability/index.ts";
import type { Scenario } from "../scenario/index.ts";
import { arrivalOf, flatTrips, type Question, type Verdict } from "../walk/index.ts";

/** Pairs of a sender and a network that are held against every single failure at most; of more, a sample. */
const MAX_PAIRS = 400;
/** Devices past which single failures are not tried: a page would wait too long. */
const MAX_DEVICES = 150;

/** Something that an edit makes worse. Names are ids; `to` is an address or a range of addresses. */
export type Cost =
  | { readonly kind: "flow"; readonly flow: string }
  | { readonly kind: "range"; readonly from: string; readonly to: string }
  | { readonly kind: "failure"; readonly failed: string; readonly from: string; readonly to: string };

/**
 * Whether an edit makes anything worse: a flow, or a range of addresses that a device reached with nothing failed; or, under
 * some single failure, what a device sends to a network of the plan or to the internet and gets an answer to. `after` is
 * the scenario with the edit applied.
 */
export function harmsAnything(before: Scenario, after: Scenario, edit: Edit): boolean {
  return !costs(before, after, edit).next().done;
}

/** The costs of an edit, in the sense of `harmsAnything`; at most `most`. */
export function costsOf(before: Scenario, after: Scenario, edit: Edit, most: number): Cost[] {
  const found: Cost[] = [];
  for (const cost of costs(before, after, edit)) if (found.push(cost) >= most) break;
  return found;
}

function* costs(before: Scenario, after: Scenario, edit: Edit): Generator<Cost> {
  yield* worseFlows(before, after);
  for (const change of differenceOf(before, after))
    if (
      change.before.result === "delivered" &&
      change.after.result !== "delivered" &&
      !isVirtual(before.network, change.range)
    )
      yield {
        kind: "range",
        from: change.from,
        to: prefixesOfRange(change.range).map(formatPrefix).join(", "),
      };
  if (before.network.devices.length <= MAX_DEVICES)
    yield* worseUnderFailures(before, after, pairsFor(before.network, edit));
}

/**
 * Whether a range is one address of a virtual router, or of an interface that bears one: how these are reached goes by who
 * is Active, and what counts is what their networks reach by them.
 */
function isVirtual(network: Network, { first, last }: AddressRange): boolean {
  return (
    sameAddress(first, last) &&
    network.virtuals.some(
      ({ addresses, interface: i }) =>
        addresses.some((address) => sameAddress(address, first)) || hasAddress(network, i, first),
    )
  );
}

/** Flows that work and no longer do, or arrive although they must be denied and did not. */
function* worseFlows(before: Scenario, after: Scenario): Generator<Cost> {
  const asked = new Map(after.flows().map(({ flow, question }) => [flow.id, question]));
  const [was, is] = [flatTrips(before.network), flatTrips(after.network)];
  const arrives = (scenario: Scenario, id: string, one: Question) =>
    arrivalOf(scenario.trip(id, one)) === "arrives";
  for (const { flow, question } of before.flows()) {
    const now = asked.get(flow.id);
    if (!now) continue;
    const isWorse = question.mustBeDenied
      ? !arrives(before, flow.id, question) && arrives(after, flow.id, now)
      : was.verdictOf(before.world, question) === "works" && is.verdictOf(after.world, now) !== "works";
    if (isWorse) yield { kind: "flow", flow: flow.id };
  }
}

/** The result of a pair with nothing failed, and under the failures that change it. */
interface PairResult {
  readonly nominal: Verdict;
  readonly under: ReadonlyMap<string, Verdict>;
}

/** Results per scenario, by pair. */
const known = new WeakMap<Scenario, Map<string, PairResult>>();

function faringsOf(scenario: Scenario, pairs: readonly Pair[]): Map<string, PairResult> {
  const found = known.get(scenario) ?? new Map<string, PairResult>();
  known.set(scenario, found);
  const open = pairs.filter(({ key }) => !found.has(key));
  const { engine, network } = scenario;
  const questions = open.map(({ from, ...question }): Question => {
    const device = network.deviceIndex.get(from) ?? -1;
    return { ...question, device, vrf: Math.max(0, network.devices[device].vrfs.indexOf(question.vrf)) };
  });
  for (const [n, { nominal, failures }] of failuresOf(engine, [], questions, 1).entries())
    found.set(open[n].key, {
      nominal: nominal.verdict,
      under: new Map(
        failures.map(({ failed, verdict }) => [
          failed.map((element) => formatElement(network, element)).join(),
          verdict,
        ]),
      ),
    });
  return found;
}

function* worseUnderFailures(before: Scenario, after: Scenario, pairs: readonly Pair[]): Generator<Cost> {
  const there = pairs.filter(({ from }) => after.network.deviceIndex.has(from));
  const [was, is] = [faringsOf(before, there), faringsOf(after, there)];
  const breaks = (a: Verdict, b: Verdict) => a === "works" && b !== "works";
  for (const { key, from, destination } of there) {
    const [old, now] = [was.get(key) as PairResult, is.get(key) as PairResult];
    const to = formatAddress(destination);
    if (breaks(old.nominal, now.nominal)) yield { kind: "range", from, to };
    // A link that is new cannot have been lost before.
    const isNew = (failed: string) =>
      failed.startsWith("link:") && findElement(before.network, failed) === null;
    for (const failed of new Set([...old.under.keys(), ...now.under.keys()]))
      if (
        !isNew(failed) &&
        breaks(old.under.get(failed) ?? old.nominal, now.under.get(failed) ?? now.nominal)
      )
        yield { kind: "failure", failed, from, to };
  }
}

/** A sender, by its id, and an address that it writes to. */
interface Pair extends Omit<Question, "device" | "vrf"> {
  readonly key: string;
  readonly from: string;
  readonly vrf: string;
}

/** Whether the network holds only the two ends of a line. */
const isTransfer = ({ address, length }: Prefix) =>
  length < widthOf(address.family) && length >= widthOf(address.family) - 2;

/** One owner in each network of ours, hosts first, plus the internet if the plan has it. Transfer networks are skipped:
 * their ends are lost with the link even if traffic has another path. */
const destinationsOf = onceFor((network: Network): Address[] => {
  const found = new Map<string, Address>();
  const roleOf = (device: number) => network.devices[device].role;
  const attachments = attachmentsOf(network)
    .filter(({ address, device }) => !isIpv6LinkLocal(address) && !isForeign(roleOf(device)))
    .filter(({ prefix, device }) => roleOf(device) === "host" || !isTransfer(prefix))
    .sort((a, b) => Number(roleOf(b.device) === "host") - Number(roleOf(a.device) === "host"));
  for (const { address, prefix } of attachments) {
    const name = formatPrefix(prefix);
    if (!found.has(name)) found.set(name, address);
  }
  const isOutside = network.devices.some(({ role }) => role === "internet");
  const outside = isOutside ? families.flatMap((family) => addressOutside(network, family) ?? []) : [];
  return [...found.values(), ...outside];
});

const isForeign = (role: Role) => role === "internet" || role === "provider";

/** The pairs that an edit can touch: by the prefixes of its routes where those are all that it changes, else all. */
function pairsFor(network: Network, edit: Edit): Pair[] {
  const touched = prefixesOf(network, edit);
  const destinations = destinationsOf(network);
  const holds = (address: Address) =>
    touched === null || touched.some((prefix) => containsAddress(prefix, address));
  const pairs: Pair[] = [];
  for (const { id, role, vrfs, firstInterface, endInterface } of network.devices) {
    if (isForeign(role)) continue;
    for (const [v, vrf] of vrfs.entries()) {
      const own: Address[] = [];
      for (let i = firstInterface; i < endInterface; i++)
        if (network.interfaces.vrf[i] === v) own.push(...addressesOf(network, i));
      const isBack = own.some(holds);
      for (const destination of destinations) {
        if (!isBack && !holds(destination)) continue;
        if (!own.some(({ family }) => family === destination.family)) continue;
        const key = `${id} ${vrf} ${formatAddress(destination)}`;
        pairs.push({ key, from: id, vrf, source: null, destination, protocol: "icmp", port: null });
      }
    }
  }
  const step = Math.ceil(pairs.length / MAX_PAIRS);
  return step > 1 ? pairs.filter((_, n) => n % step === 0) : pairs;
}

/** The destinations of an edit's routes; null if the edit changes anything else or other routes resolve through them.
 * */
function prefixesOf(network: Network, { changes }: Edit): Prefix[] | null {
  const prefixes: Prefix[] = [];
  for (const change of changes) {
    if (change.in !== "policy-table" && !(change.in === "device" && change.collection === "routes"))
      return null;
    for (const route of [change.before, change.after] as (StaticRoute | null)[]) {
      const prefix = route && parsePrefix(route.to);
      if (prefix) prefixes.push(prefix);
    }
  }
  const holds = (address: Address | null) =>
    address !== null && prefixes.some((prefix) => containsAddress(prefix, address));
  const rests =
    network.watches.some(({ probe }) => holds(probe?.target ?? null)) ||
    network.tunnels.some(({ to, from }) => holds(to) || holds(from)) ||
    changes.some(
      (change) =>
        "device" in change &&
        network.plan.devices
          .find(({ id }) => id === change.device)
          ?.routes.some(({ via, out }) => via !== undefined && out === undefined && holds(parseAddress(via))),
    );
  return rests ? null : prefixes;
}
