import { readdirSync, readFileSync } from "node:fs";
import { stringify } from "yaml";
import { fleet } from "../../bench/fleet.ts";
import { findAll } from "../../core/findings/index.ts";
import { applyEdit, type Edit, editSchema, type Plan } from "../../core/plan/index.ts";
import { tableReport } from "../../core/reports/index.ts";
import { NetworkModel } from "../../core/scenario/index.ts";
import { conversationsOf, exchangesOf, observedOf, readCapture } from "../../exchange/capture/index.ts";
import { readInterfaceList } from "../../exchange/interface-list.ts";
import { readPlanText, writePlanText } from "../../exchange/plan-text.ts";
import type { Random } from "../support/random.ts";
import { randomPlan } from "../support/random-plan.ts";
import { hostileText, mutated, mutatedBytes, mutatedText } from "./mutate.ts";

const demo = new URL("../../demo/", import.meta.url);
const shipped = [
  "marrow-bay.yaml",
  "three-routers.yaml",
  ...readdirSync(new URL("cases/", demo))
    .filter((name) => name.endsWith(".yaml"))
    .map((name) => `cases/${name}`),
].map((name) => readFileSync(new URL(name, demo), "utf8"));
const captureBytes = readFileSync(new URL("../../public/demo/longhaven-cut.pcapng", import.meta.url));

function soundPlan(random: Random): Plan {
  if (random.chance(0.4)) return randomPlan(random.below(1e9), { mistakes: true });
  if (random.chance(0.1)) return fleet({ devices: 30, links: 40, flows: 20, routes: 200 });
  const reading = readPlanText(random.pick(shipped));
  if (!reading.ok) throw new Error("a shipped plan is unreadable");
  return reading.plan;
}

/** A document, sound or not, as text. */
export function documentText(random: Random): string {
  if (random.chance(0.35)) return mutatedText(random.pick(shipped), random);
  const document = mutated(soundPlan(random), random);
  return random.chance(0.5) ? JSON.stringify(document) : stringify(document);
}

/** Exercises a document: reads it and, if valid, runs every query on it. */
export function tryDocument(random: Random) {
  const reading = readPlanText(documentText(random));
  if (!reading.ok) {
    if (reading.errors.length === 0 || reading.errors.some((e) => e.message === ""))
      throw new Error("no sentence");
    return;
  }
  const again = readPlanText(writePlanText(reading.plan, random.chance(0.5) ? "json" : "yaml"));
  if (!again.ok) throw new Error(`what was written cannot be read: ${again.errors[0].message}`);
  const model = NetworkModel.compile(reading.plan);
  model.trips();
  for (const device of model.network.devices) tableReport(model.world, device.index, "main");
  findAll(model, { fixes: false });
}

/** An edit of a shipped plan: of things as they are there, made hostile. */
export function anyEdit(plan: Plan, random: Random): unknown {
  const device: Partial<Plan["devices"][number]> & { id: string } = plan.devices.length
    ? random.pick(plan.devices)
    : { id: "none" };
  const collections = ["routes", "interfaces", "watches", "sourceNat", "policyTables", "learned"] as const;
  const collection = random.pick(collections);
  const items: readonly unknown[] = device[collection] ?? [];
  const before = random.chance(0.6) && items.length ? random.pick(items) : null;
  const planCollection = random.pick(["devices", "links", "flows", "gateways", "outages"] as const);
  const whole = plan[planCollection] as readonly unknown[];
  const edit: unknown = {
    label: "an edit",
    changes: [
      random.chance(0.6)
        ? {
            in: "device",
            device: device.id,
            collection,
            before,
            after: random.chance(0.2) ? null : mutated(before ?? items[0] ?? {}, random),
          }
        : {
            in: "plan",
            collection: planCollection,
            before: random.pick([null, whole[0] ?? null]),
            after: mutated(whole[0] ?? {}, random),
          },
    ],
  };
  return random.chance(0.3) ? mutated(edit, random) : edit;
}

export function tryEdit(random: Random) {
  const plan = soundPlan(random);
  const read = editSchema.safeParse(anyEdit(plan, random));
  if (!read.success) return;
  const outcome = applyEdit(plan, read.data as Edit);
  if (outcome.ok) NetworkModel.compile(plan).after(outcome.plan);
  else if (outcome.errors.length === 0) throw new Error("refused without a reason");
}

export function tryCapture(random: Random) {
  const reading = readCapture(mutatedBytes(captureBytes, random));
  if (!reading.ok) {
    if (reading.message === "") throw new Error("no sentence");
    return;
  }
  for (const conversation of conversationsOf(reading.frames).conversations)
    observedOf(exchangesOf(conversation), () => "", 0);
}

export function tryList(random: Random) {
  const line = () =>
    [
      random.pick(["west", "office-fw", "", "West Router", random.pick(hostileText)]),
      random.pick(["lan", "wan1", "", "eth0/1", random.pick(hostileText)]),
      random.pick(["10.1.0.1/24", "10.1.0.1", "2001:db8::1/64", "", random.pick(hostileText)]),
      random.pick(["255.255.255.0", "loopback", "firewall", ""]),
    ].join(random.pick([",", "\t", ";", ", "]));
  const text = Array.from({ length: 1 + random.below(40) }, line).join("\n");
  const plan = soundPlan(random);
  const list = readInterfaceList(text, plan, random.chance(0.3) ? (plan.devices[0]?.id ?? null) : null);
  if (list.edit) applyEdit(plan, list.edit);
}
