import fc from "fast-check";
import { XMLParser } from "fast-xml-parser";
import { describe, expect, it } from "vitest";
import type { Device, Plan } from "../../core/plan/index.ts";
import { NetworkModel } from "../../core/scenario/index.ts";
import { runbookOf } from "../../core/steps/index.ts";
import { demoChanged, demoPlan, planOf } from "../../tests/support/plans.ts";
import { Random } from "../../tests/support/random.ts";
import { randomPlan } from "../../tests/support/random-plan.ts";
import { configurationOf } from "../writers/ietf.ts";
import { formatXml } from "../writers/xml.ts";
import { datastoreEdits, editConfigOf, yangPatchOf } from "./ietf-edit.ts";
import { withTexts } from "./index.ts";

type Tree = { [name: string]: unknown };

/** Applies a YANG Patch to a datastore as RFC 8072 says, by its text alone. */
function patched(datastore: Tree, patch: string): Tree {
  const result = structuredClone(datastore);
  for (const { operation, target, value } of JSON.parse(patch)["ietf-yang-patch:yang-patch"].edit) {
    const parts = target
      .slice(1)
      .split("/")
      .map((part: string) => {
        const [name, keys] = part.split("=");
        return { name, keys: keys?.split(",").map(decodeURIComponent) };
      });
    let node: Tree = result;
    for (const [n, { name, keys }] of parts.entries()) {
      const last = n === parts.length - 1;
      if (!keys) {
        if (last && operation === "remove") delete node[name];
        node[name] ??= last && operation === "remove" ? undefined : {};
        node = node[name] as Tree;
        continue;
      }
      node[name] ??= [];
      const list = node[name] as Tree[];
      const at = list.findIndex((entry) => keys.every((key: string) => Object.values(entry).includes(key)));
      if (!last) {
        if (at < 0) throw new Error(`${target}: there is no ${name} ${keys}`);
        node = list[at];
        continue;
      }
      const [given] = value ? (Object.values(value) as Tree[][])[0] : [];
      if (operation === "remove") {
        if (at < 0) throw new Error(`${target} is missing on the device`);
        list.splice(at, 1);
      } else if (operation === "create" && at >= 0) throw new Error(`${target} is there already`);
      else if (operation === "replace" && at < 0) throw new Error(`${target} is missing on the device`);
      else if (at < 0) list.push(given);
      else list[at] = operation === "merge" ? merged(list[at], given) : given;
    }
  }
  return result;
}

function merged(old: Tree, fresh: Tree): Tree {
  const result = { ...old };
  for (const [name, value] of Object.entries(fresh)) {
    const was = result[name];
    if (Array.isArray(value)) result[name] = mergedList((was ?? []) as Tree[], value);
    else if (typeof value === "object" && typeof was === "object")
      result[name] = merged(was as Tree, value as Tree);
    else result[name] = value;
  }
  return result;
}

function mergedList(old: Tree[], fresh: Tree[]): Tree[] {
  const key = (entry: Tree) => String(entry.ip ?? entry["destination-prefix"] ?? entry.name);
  const kept = new Map(old.map((entry) => [key(entry), entry]));
  for (const entry of fresh) kept.set(key(entry), merged(kept.get(key(entry)) ?? {}, entry));
  return [...kept.values()];
}

/** A datastore without its order, and without what holds nothing. */
function plain(value: unknown): unknown {
  if (Array.isArray(value))
    return (
      value
        // The instance that held static routes stays when the last has gone.
        .filter(
          (entry) => entry?.type !== "ietf-routing:static" || JSON.stringify(entry).includes('"route":[{'),
        )
        .map(plain)
        .sort((a, b) => (JSON.stringify(a) < JSON.stringify(b) ? -1 : 1))
    );
  if (typeof value !== "object" || value === null) return value;
  const entries = Object.entries(value)
    .map(([name, child]) => [name, plain(child)] as const)
    .filter(
      ([, child]) => child !== undefined && JSON.stringify(child) !== "[]" && JSON.stringify(child) !== "{}",
    )
    // An address family whose addresses have gone leaves only its switch behind.
    .filter(([name, child]) => !name.startsWith("ietf-ip:") || JSON.stringify(child).includes('"address"'));
  return Object.fromEntries(entries.sort(([a], [b]) => (a < b ? -1 : 1)));
}

const editsOf = (plan: Plan, before: Device, after: Device) =>
  datastoreEdits({ plan, device: before }, { plan, device: after });

/** Another device of the same name: some routes, addresses and interfaces come, go or change. */
function changed(device: Device, random: Random): Device {
  const interfaces = device.interfaces
    .filter(() => random.chance(0.9))
    .map((port) => ({
      ...port,
      ...(random.chance(0.2) && { enabled: random.chance(0.5) }),
      addresses: random.chance(0.3)
        ? [...port.addresses.slice(1), `10.250.${random.below(200)}.1/24`]
        : port.addresses,
    }));
  const routes = device.routes.filter(() => random.chance(0.7));
  const more = Array.from({ length: random.below(3) }, (_, n) => ({
    to: `10.25${n}.${random.below(9)}.0/24`,
    ...(random.chance(0.5) ? { discard: "drop" as const } : { via: "10.0.0.9" }),
  }));
  return { ...device, interfaces, routes: random.shuffled([...routes, ...more]) };
}

describe("edits of a datastore", () => {
  it("make of one configuration the other, applied by RFC 8072's rules; each entry is there or not as its operation says", () => {
    fc.assert(
      fc.property(fc.nat(1_000_000), (seed) => {
        const random = new Random(seed);
        const plan = randomPlan(seed, { family: seed % 2 ? 4 : 6 });
        const before = random.pick(plan.devices);
        const after = changed(before, random);
        const [was, now] = [before, after].map((device) => configurationOf(plan, device) as Tree);
        const edits = editsOf(plan, before, after);
        expect(plain(patched(was, yangPatchOf(edits, "test")))).toEqual(plain(now));
        expect(editsOf(plan, before, before)).toEqual([]);
      }),
      { numRuns: 200 },
    );
  });

  it("are in XML what they are in JSON: as many operations, at the same entries", () => {
    const parser = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: "@", parseTagValue: false });
    fc.assert(
      fc.property(fc.nat(1_000_000), (seed) => {
        const random = new Random(seed);
        const plan = randomPlan(seed, {});
        const before = random.pick(plan.devices);
        const edits = editsOf(plan, before, changed(before, random));
        const text = editConfigOf(edits);
        const { config } = parser.parse(text);
        expect(text.match(/nc:operation="/g)?.length ?? 0).toBe(edits.length);
        if (edits.length > 0) expect(config["@xmlns"]).toBe("urn:ietf:params:xml:ns:netconf:base:1.0");
      }),
      { numRuns: 60 },
    );
  });

  it("say a route with several next hops as a list, and keep what else an interface has", () => {
    const device = (routes: object[], port: object): Device =>
      planOf({
        devices: [{ id: "a", role: "router", interfaces: [{ name: "x", addresses: [], ...port }], routes }],
      }).devices[0];
    const before = device([{ to: "10.0.0.0/8", via: "192.0.2.1" }], { addresses: ["192.0.2.2/24"] });
    const after = device(
      [
        { to: "10.0.0.0/8", via: "192.0.2.1" },
        { to: "10.0.0.0/8", via: "192.0.2.9" },
      ],
      { addresses: ["192.0.2.3/24"], note: `<"up & down">` },
    );
    const edits = editsOf(planOf({}), before, after);
    expect(edits.map(({ operation, target }) => [operation, target.at(-1)?.name])).toEqual([
      ["merge", "interface"],
      ["replace", "route"],
      ["remove", "address"],
    ]);
    expect(editConfigOf(edits)).toContain('&lt;"up &amp; down"&gt;');
    expect(editConfigOf(edits)).toMatch(
      /<route nc:operation="replace">\s*<destination-prefix>10\.0\.0\.0\/8</,
    );
  });
});

describe("texts of a change", () => {
  const before = demoPlan("marrow-bay");
  const after = demoChanged();
  const outcome = runbookOf(NetworkModel.compile(before), NetworkModel.compile(after));
  if (!outcome) throw new Error("no order");
  const { visits } = withTexts(before, after, outcome.runbook);
  const steps = visits.flatMap((visit) =>
    visit.steps.map((step) => ({ device: visit.device as string, step })),
  );

  it("every step has a sentence for doing it and one for taking it back", () => {
    for (const { step } of steps) {
      expect(step.texts.sentence).toMatch(/^(Add|Change|Remove) /);
      expect(step.undoTexts.sentence).toMatch(/^(Add|Change|Remove) /);
      expect(step.undoTexts.sentence).not.toBe(step.texts.sentence);
    }
  });

  it("what a form has no words for is said, not dropped", () => {
    const watch = steps.find(({ step }) => "collection" in step.do && step.do.collection === "watches");
    expect(watch?.step.texts.json).toEqual({ text: null, unsaid: ["a watch"] });
    expect(watch?.step.texts.iproute2).toEqual({ text: null, unsaid: ["a watch"] });
    const watched = steps.find(({ step }) => step.texts.sentence.endsWith(": watch longhaven"));
    expect(watched?.step.texts.json.unsaid).toEqual(["the watch longhaven"]);
    const floating = steps.find(({ step }) => step.texts.sentence.includes("172.20.0.3"));
    // As a second next hop it would share the load.
    expect(floating?.step.texts.json).toEqual({ text: null, unsaid: ["the distance 20"] });
    expect(floating?.step.texts.iproute2.text).toMatch(
      /^route add 172\.20\.48\.0\/24 via 172\.20\.0\.3 metric 20 proto static\n$/,
    );
  });

  it("applied one after the other, they make the configuration that was wanted, and taken back the one before", () => {
    for (const id of new Set(steps.map(({ device }) => device))) {
      const own = steps.filter(({ device }) => device === id);
      const configuration = (plan: Plan) =>
        configurationOf(plan, plan.devices.find((device) => device.id === id) as Device) as Tree;
      let now = configuration(before);
      for (const { step } of own) if (step.texts.json.text) now = patched(now, step.texts.json.text);
      expect(plain(now)).toEqual(plain(configuration(after)));
      for (const { step } of own.toReversed())
        if (step.undoTexts.json.text) now = patched(now, step.undoTexts.json.text);
      expect(plain(now)).toEqual(plain(configuration(before)));
    }
    expect(formatXml(configurationOf(before, before.devices[0]))).toContain("<data");
  });

  it("a device that comes is told whole, one that goes is told what leaves it, a link tells no device anything", () => {
    const plan = demoPlan("three-routers");
    const fresh = {
      id: "depot",
      role: "router",
      interfaces: [{ name: "e", addresses: ["10.3.0.77/24"] }],
      routes: [{ to: "0.0.0.0/0", via: "10.3.0.1" }],
    };
    const wanted = planOf({ ...plan, devices: [...plan.devices, fresh] } as never);
    const made = runbookOf(NetworkModel.compile(plan), NetworkModel.compile(wanted));
    if (!made) throw new Error("no order");
    const [visit] = withTexts(plan, wanted, made.runbook).visits;
    expect(visit.steps[0].texts.iproute2.text).toBe(
      "addr add 10.3.0.77/24 dev e\nlink set e up\nroute add 0.0.0.0/0 via 10.3.0.1 metric 1 proto static\n",
    );
    expect(visit.steps[0].undoTexts.iproute2.text).toContain("addr del 10.3.0.77/24 dev e");
  });
});
