import { directionRefs, elementRefs, type Plan } from "../../../core/plan/index.ts";
import type { Choice } from "../../ui/select.tsx";
import { elementLabel, type Labels } from "../sentence-parts.ts";

/** The labels of a plan's own items. */
function labelsOf(plan: Plan): Labels {
  const named = (list: readonly { id: string; label?: string }[]) =>
    new Map(list.map(({ id, label }) => [id, label ?? id]));
  return {
    devices: named(plan.devices),
    flows: named(plan.flows),
    links: named(plan.links),
    gateways: named(plan.gateways),
    fates: new Map(plan.risks.map(({ id, label }) => [`risk:${id}`, label ?? id])),
  };
}

const named = ({ id, label }: { id: string; label?: string }): Choice => ({ value: id, label: label ?? id });

export const deviceChoices = (plan: Plan): Choice[] => plan.devices.map(named);
export const linkChoices = (plan: Plan): Choice[] => plan.links.map(named);
export const gatewayChoices = (plan: Plan): Choice[] => plan.gateways.map(named);

/** Interfaces as "device/interface", labelled "Office firewall outside". */
export function interfaceChoices(plan: Plan, keep: (end: string) => boolean = () => true): Choice[] {
  return plan.devices.flatMap((device) =>
    device.interfaces.flatMap(({ name }) => {
      const value = `${device.id}/${name}`;
      return keep(value) ? { value, label: `${device.label ?? device.id} ${name}` } : [];
    }),
  );
}

/** Elements that can fail, as references such as "link:north-ring". */
export function elementChoices(plan: Plan, keep: (ref: string) => boolean = () => true): Choice[] {
  const labels = labelsOf(plan);
  return [...elementRefs(plan), ...directionRefs(plan)]
    .filter(keep)
    .map((ref) => ({ value: ref, label: elementLabel(ref, labels) }));
}
