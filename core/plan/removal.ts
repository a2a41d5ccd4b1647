import type { Change, Edit } from "./edit.ts";
import { parseElement, parseEnd } from "./elements.ts";
import type { Flow, Gateway, Plan } from "./plan.ts";

/**
 * The edit that takes a device, an interface, a link or a gateway out of a plan with all that cannot stand without it:
 * links, gateways, flows, routes, watches, and the steps of outages that name it.
 */
export function removalOf(
  plan: Plan,
  what: { device: string } | { interface: string } | { link: string } | { gateway: string },
): Edit | null {
  if ("device" in what) return deviceRemoval(plan, what.device);
  if ("gateway" in what) return gatewayRemoval(plan, what.gateway);
  return "link" in what ? linkRemoval(plan, what.link) : interfaceRemoval(plan, what.interface);
}

function deviceRemoval(plan: Plan, id: string): Edit | null {
  const device = plan.devices.find((entry) => entry.id === id);
  if (!device) return null;
  const of = (end: string) => parseEnd(end)?.device === id;
  const changes: Change[] = [
    ...plan.links.flatMap((link) => withoutEnds(link, of)),
    ...gatewaysWithout(plan, (gateway) => of(gateway.at)),
    ...flowsWithout(plan, {
      flow: (flow) => flow.from === id || of(flow.from) || flow.to === id,
      gateway: (gateway) => of(gateway.at),
      device: id,
    }),
    ...outagesWithout(plan, (ref) => {
      const element = parseElement(ref);
      if (!element) return false;
      if (element.kind === "device") return element.id === id;
      if (element.kind === "link") return isLost(plan, element.id, of);
      return "device" in element && element.device === id;
    }),
    ...plan.dismissals.filter((entry) => entry.device === id).map((before) => gone("dismissals", before)),
    gone("devices", device),
  ];
  return { label: `Remove ${device.label ?? id}${besides(changes)}`, changes };
}

function linkRemoval(plan: Plan, id: string): Edit | null {
  const link = plan.links.find((entry) => entry.id === id);
  if (!link) return null;
  const changes = [
    ...outagesWithout(plan, (ref) => {
      const element = parseElement(ref);
      return element?.kind === "link" && element.id === id;
    }),
    gone("links", link),
  ];
  return { label: `Remove the link ${link.label ?? id}`, changes };
}

function gatewayRemoval(plan: Plan, id: string): Edit | null {
  const gateway = plan.gateways.find((entry) => entry.id === id);
  if (!gateway) return null;
  const changes = [
    gone("gateways", gateway),
    ...flowsWithout(plan, { flow: () => false, gateway: (entry) => entry.id === id }),
  ];
  return { label: `Remove the gateway ${gateway.label ?? id}`, changes };
}

function interfaceRemoval(plan: Plan, end: string): Edit | null {
  const parsed = parseEnd(end);
  const device = plan.devices.find((entry) => entry.id === parsed?.device);
  const port = device?.interfaces.find((entry) => entry.name === parsed?.name);
  if (!device || !port) return null;
  const own = <T>(
    collection: "routes" | "learned" | "watches" | "sourceNat" | "interfaces",
    before: T,
  ): Change => ({
    in: "device",
    device: device.id,
    collection,
    before,
    after: null,
  });
  const watches = device.watches.filter(
    (watch) =>
      (watch.kind === "probe" && (watch.out === port.name || watch.source === port.name)) ||
      ((watch.kind === "bfd" || watch.kind === "interface") && watch.interface === port.name),
  );
  const lost = new Set(watches.map((watch) => watch.id));
  const changes: Change[] = [
    ...plan.links.flatMap((link) => withoutEnds(link, (other) => other === end)),
    ...gatewaysWithout(plan, (gateway) => gateway.at === end),
    ...flowsWithout(plan, {
      flow: (flow) => flow.from === end,
      gateway: (gateway) => gateway.at === end,
    }),
    ...outagesWithout(plan, (ref) => {
      const element = parseElement(ref);
      if (element?.kind === "link") return isLost(plan, element.id, (other) => other === end);
      if (element?.kind === "watch") return element.device === device.id && lost.has(element.id);
      return ref === `interface:${end}`;
    }),
    ...device.routes
      .filter((route) => route.out === port.name || (route.watch !== undefined && lost.has(route.watch)))
      .map((route) =>
        route.out === port.name
          ? own("routes", route)
          : { ...own("routes", route), after: { ...route, watch: undefined } },
      ),
    ...device.learned.filter((route) => route.out === port.name).map((route) => own("learned", route)),
    ...device.sourceNat.filter((nat) => nat.out === port.name).map((nat) => own("sourceNat", nat)),
    ...watches.map((watch) => own("watches", watch)),
    own("interfaces", port),
  ];
  return { label: `Remove ${port.name} of ${device.label ?? device.id}${besides(changes)}`, changes };
}

function gone(
  collection: "links" | "gateways" | "flows" | "dismissals" | "devices" | "outages",
  before: object,
): Change {
  return { in: "plan", collection, before, after: null };
}

/** A link without some of its ends; gone where fewer than two are left of two or more. */
function withoutEnds(link: Plan["links"][number], lost: (end: string) => boolean): Change[] {
  const ends = link.ends.filter((end) => !lost(end));
  if (ends.length === link.ends.length) return [];
  if (ends.length < 2) return [gone("links", link)];
  return [{ in: "plan", collection: "links", before: link, after: { ...link, ends } }];
}

function gatewaysWithout(plan: Plan, lost: (gateway: Gateway) => boolean): Change[] {
  return plan.gateways.filter(lost).map((before) => gone("gateways", before));
}

/** Flows that cannot be asked any more, gone; what the others expect, without what is lost. */
function flowsWithout(
  plan: Plan,
  lost: { flow: (flow: Flow) => boolean; gateway: (gateway: Gateway) => boolean; device?: string },
): Change[] {
  const gateways = new Set(plan.gateways.filter(lost.gateway).map((gateway) => gateway.id));
  return plan.flows.flatMap((flow): Change[] => {
    if (lost.flow(flow)) return [gone("flows", flow)];
    const { expect } = flow;
    const carriers = expect?.carriers?.filter((id) => !gateways.has(id));
    const through = expect?.through?.filter((id) => id !== lost.device);
    const same = carriers?.length === expect?.carriers?.length && through?.length === expect?.through?.length;
    if (same) return [];
    const { carriers: _c, through: _t, ...rest } = expect ?? {};
    const after = {
      ...flow,
      expect: {
        ...rest,
        ...(carriers?.length ? { carriers } : {}),
        ...(through?.length ? { through } : {}),
      },
    };
    return [{ in: "plan", collection: "flows", before: flow, after }];
  });
}

/** Whether a link goes along with the ends that are lost. */
function isLost(plan: Plan, id: string, lost: (end: string) => boolean): boolean {
  const link = plan.links.find((entry) => entry.id === id);
  return link !== undefined && withoutEnds(link, lost).some((change) => !change.after);
}

function outagesWithout(plan: Plan, lost: (ref: string) => boolean): Change[] {
  return plan.outages.flatMap((outage): Change[] => {
    const names = outage.steps.some((step) => [...(step.fail ?? []), ...(step.restore ?? [])].some(lost));
    if (!names) return [];
    const kept = (refs: string[] | undefined) => refs?.filter((ref) => !lost(ref));
    const steps = outage.steps
      .map((step) => ({ ...step, fail: kept(step.fail), restore: kept(step.restore) }))
      .filter((step) => (step.fail?.length ?? 0) + (step.restore?.length ?? 0) > 0);
    if (steps.length === 0) return [gone("outages", outage)];
    return [{ in: "plan", collection: "outages", before: outage, after: { ...outage, steps } }];
  });
}

/** What goes along, in words: ", with 2 links and a flow". */
function besides(changes: readonly Change[]): string {
  const nouns = { links: "link", gateways: "gateway", flows: "flow", routes: "route", watches: "watch" };
  const counts = Object.entries(nouns).flatMap(([collection, noun]) => {
    const n = changes.filter(
      (change) => "collection" in change && change.collection === collection && !change.after,
    ).length;
    return n === 0 ? [] : [n === 1 ? `a ${noun}` : `${n} ${collection}`];
  });
  const last = counts.pop();
  if (last === undefined) return "";
  return `, with ${counts.length ? `${counts.join(", ")} and ` : ""}${last}`;
}
