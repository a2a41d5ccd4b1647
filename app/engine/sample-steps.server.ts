import { profileOf } from "../../core/network/index.ts";
import { describeChange, type Plan } from "../../core/plan/index.ts";
import type { Runbook } from "../../core/steps/index.ts";
import { type TemplateData, templateSteps, withTexts } from "../../exchange/texts/index.ts";
import type { ReadablePlan } from "../../server/access/grants.ts";
import { changeOf, listChanges } from "../../server/changes/changes.ts";
import { headOf } from "../../server/plans.ts";
import { documentAt } from "./documents.server.ts";

/** Steps to try templates on, at most. */
const MOST = 40;

export interface SampleSteps {
  /** The profiles of the plan's devices: those that words are kept for. */
  readonly profiles: readonly string[];
  readonly steps: readonly TemplateData[];
  /** The change or plan they belong to. */
  readonly of: string;
}

/** The steps of the newest change; without one, the steps that would build the plan's own devices. */
export async function sampleSteps(planId: ReadablePlan): Promise<SampleSteps> {
  const head = await headOf(planId);
  const plan = head && (await documentAt(planId, head.revision));
  if (!head || !plan) return { profiles: [], steps: [], of: "" };
  const profiles = [...new Set(plan.devices.map((device) => profileOf(plan, device).id))].sort();
  const [latest] = await listChanges(planId);
  const change = latest ? await changeOf<Runbook>(planId, latest.number) : null;
  if (change) {
    const [before, after] = await Promise.all([
      documentAt(planId, change.base),
      documentAt(planId, change.draft),
    ]);
    if (before && after) {
      const texted = withTexts(before, after, change.runbook);
      const steps = [false, true].flatMap((undo) =>
        templateSteps(before, after, texted, undo).slice(0, MOST / 2),
      );
      return { profiles, steps, of: `change ${change.number}, ${change.title}` };
    }
  }
  return {
    profiles,
    steps: ownSteps(plan).slice(0, MOST),
    of: "existing routes, shown as if they were added",
  };
}

/** The first routes and watches of each profile's first device, as steps that add them. */
function ownSteps(plan: Plan): TemplateData[] {
  const seen = new Set<string>();
  return plan.devices.flatMap((device) => {
    const profile = profileOf(plan, device).id;
    if (seen.has(profile) || device.routes.length === 0) return [];
    seen.add(profile);
    const items = [
      ...device.routes.slice(0, 3).map((item) => ({ collection: "routes", kind: "route", item }) as const),
      ...device.watches.slice(0, 1).map((item) => ({ collection: "watches", kind: "watch", item }) as const),
    ];
    return items.map(({ collection, kind, item }, n): TemplateData => {
      const change = { in: "device", device: device.id, collection, before: null, after: item } as const;
      return {
        action: "add",
        kind,
        before: null,
        after: item,
        item,
        table: null,
        device: {
          id: device.id,
          label: device.label ?? device.id,
          role: device.role,
          profile,
          site: device.site ?? "",
        },
        sentence: describeChange(change),
        undo: false,
        visit: 1,
        step: n + 1,
      };
    });
  });
}
