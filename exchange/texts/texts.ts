import { type Change, type Device, describeChange, invertChange, type Plan } from "../../core/plan/index.ts";
import { plansOf, type Runbook, type RunbookStep, type Visit } from "../../core/steps/index.ts";
import { batchBetween } from "../writers/batch.ts";
import { kernelOf, type Tables, tablesOf } from "../writers/kernel.ts";
import { datastoreEdits, editConfigOf, yangPatchOf } from "./ietf-edit.ts";
import { isExpressible, omissionsOf, type StandardForm } from "./omissions.ts";

/** A step in a form that a device takes. */
export interface DeviceText {
  /** null where the form cannot say it, or there is nothing to say. */
  readonly text: string | null;
  /** What the form has no words for. */
  readonly unsaid: readonly string[];
}

/** A step as each form has it. */
export interface StepTexts {
  readonly sentence: string;
  /** A YANG Patch (RFC 8072) of RFC 8343 and 8349, JSON. */
  readonly json: DeviceText;
  /** The config of an edit-config (RFC 6241), XML. */
  readonly xml: DeviceText;
  /** Lines for ip -batch. */
  readonly iproute2: DeviceText;
}

export interface TextedStep extends Omit<RunbookStep, "texts"> {
  readonly texts: StepTexts;
  /** The same for undoing the step. */
  readonly undoTexts: StepTexts;
}

export interface TextedVisit extends Omit<Visit, "steps"> {
  readonly steps: readonly TextedStep[];
}

export interface TextedRunbook extends Omit<Runbook, "visits"> {
  readonly visits: readonly TextedVisit[];
}

/** A runbook with the texts of its steps, each of what its device is before it and after it. */
export function withTexts(before: Plan, after: Plan, runbook: Runbook): TextedRunbook {
  const numbers = new Map<string, Tables>();
  const then = new Map(after.devices.map((device) => [device.id, device]));
  for (const device of before.devices)
    numbers.set(device.id, tablesOf(device, then.get(device.id) ?? device));
  for (const device of after.devices) if (!numbers.has(device.id)) numbers.set(device.id, tablesOf(device));
  const plans = plansOf(before, after, runbook);
  let plan = before;
  const visits = runbook.visits.map((visit, v): TextedVisit => {
    const texted = visit.steps.map((step, n): TextedStep => {
      const now: Plan = plans.next().value ?? plan;
      const write = (change: Change, from: Plan, to: Plan) =>
        textsOf(change, from, to, visit.device, numbers, `visit-${v + 1}-step-${n + 1}`);
      const made = {
        ...step,
        texts: write(step.do, plan, now),
        undoTexts: write(invertChange(step.do), now, plan),
      };
      plan = now;
      return made;
    });
    return { ...visit, steps: texted };
  });
  return { ...runbook, visits };
}

function textsOf(
  change: Change,
  from: Plan,
  to: Plan,
  id: string | null,
  numbers: ReadonlyMap<string, Tables>,
  name: string,
): StepTexts {
  const sentence = describeChange(change);
  const [was, now] = [from, to].map((plan) => plan.devices.find((device) => device.id === id));
  const known = now ?? was;
  if (id === null || !known) {
    const none = (form: StandardForm): DeviceText => ({ text: null, unsaid: omissionsOf(change, form) });
    return { sentence, json: none("ietf"), xml: none("ietf"), iproute2: none("iproute2") };
  }
  const [before, after] = [was ?? bare(known), now ?? bare(known)];
  const edits = isExpressible(change, "ietf")
    ? datastoreEdits({ plan: from, device: before }, { plan: to, device: after })
    : [];
  const text = (form: StandardForm, written: string | null): DeviceText => ({
    text: written,
    unsaid: omissionsOf(change, form),
  });
  const tables = numbers.get(id) ?? tablesOf(known);
  const lines = isExpressible(change, "iproute2")
    ? batchBetween(kernelOf(from, before, tables), kernelOf(to, after, tables))
    : [];
  return {
    sentence,
    json: text("ietf", edits.length > 0 ? yangPatchOf(edits, name) : null),
    xml: text("ietf", edits.length > 0 ? editConfigOf(edits) : null),
    iproute2: text("iproute2", lines.length > 0 ? `${lines.join("\n")}\n` : null),
  };
}

/** A device of which nothing is configured yet, or any more. */
function bare(device: Device): Device {
  return { ...device, interfaces: [], routes: [], learned: [], policyTables: [], sourceNat: [], watches: [] };
}
