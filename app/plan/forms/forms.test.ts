import { describe, expect, it } from "vitest";
import {
  applyEdit,
  type Device,
  destinationNatSchema,
  deviceSettingsSchema,
  flowSchema,
  gatewaySchema,
  interfaceSchema,
  learnedRouteSchema,
  linkSchema,
  markSchema,
  type Plan,
  pairSchema,
  planSettingsSchema,
  policyRuleSchema,
  policyTableSchema,
  profileSchema,
  riskSchema,
  sourceNatSchema,
  staticRouteSchema,
  virtualRouterSchema,
  watchSchema,
} from "../../../core/plan/index.ts";
import { fullPlan } from "../../../tests/support/full-plan.ts";
import { demoPlan } from "../../../tests/support/plans.ts";
import { deviceForm } from "./device-form.ts";
import { flowForm } from "./flow-form.ts";
import { gatewayForm } from "./gateway-form.ts";
import { interfaceForm } from "./interface-form.ts";
import type { FormSpec, Values } from "./item-form.tsx";
import { linkForm } from "./link-form.ts";
import { outageForm } from "./outage-form.ts";
import { pairForm } from "./pair-form.ts";
import { planForm, profileForm } from "./plan-forms.ts";
import {
  destinationForm,
  learnedForm,
  markForm,
  policyForm,
  ruleForm,
  tableForm,
  tableRouteForm,
  translationForm,
} from "./policy-forms.ts";
import { riskForm } from "./risk-form.ts";
import { fieldsOfSchema } from "./schema-form.ts";
import { virtualForm } from "./virtual-form.ts";
import { watchForm } from "./watch-form.ts";

/** Every form for the items of a plan. */
function formsOf(plan: Plan): [string, FormSpec][] {
  const ofDevice = (device: Device): FormSpec[] => [
    deviceForm(plan, device),
    policyForm(plan, device),
    ...device.interfaces.map((port) => interfaceForm(plan, device, port)),
    ...device.interfaces.flatMap((port) =>
      (port.virtual ?? []).map((_, index) => virtualForm(plan, device, port, index)),
    ),
    ...device.watches.map((watch) => watchForm(plan, device, watch)),
    ...device.sourceNat.map((nat) => translationForm(plan, device, nat)),
    ...(device.destNat ?? []).map((_, index) => destinationForm(plan, device, index)),
    ...(device.marks ?? []).map((_, index) => markForm(plan, device, index)),
    ...(device.policy?.rules ?? []).map((_, index) => ruleForm(plan, device, index)),
    ...device.learned.map((route) => learnedForm(plan, device, route)),
    ...device.policyTables.flatMap((table) => [
      tableForm(plan, device, table),
      ...table.routes.map((route) => tableRouteForm(plan, device, table, route)),
    ]),
  ];
  const all = [
    planForm(plan),
    ...plan.profiles.map((profile) => profileForm(plan, profile)),
    ...plan.devices.flatMap(ofDevice),
    ...plan.links.map((link) => linkForm(plan, link)),
    ...plan.gateways.map((gateway) => gatewayForm(plan, gateway)),
    ...plan.flows.map((flow) => flowForm(plan, flow)),
    ...plan.risks.map((risk) => riskForm(plan, risk)),
    ...plan.pairs.map((pair) => pairForm(plan, pair)),
    ...plan.outages.map((outage) => outageForm(plan, outage)),
  ];
  return all.map((form, n) => [`${form.title} (${n})`, form]);
}

/** Saves a form with some fields typed anew, and gives the plan that comes of it. */
function saved(plan: Plan, form: FormSpec, typed: Values = {}): Plan {
  const reading = form.read({ ...form.initial, ...typed });
  if (!reading.ok) throw new Error(JSON.stringify(reading.errors));
  if (!reading.edit) return plan;
  const outcome = applyEdit(plan, reading.edit);
  if (!outcome.ok) throw new Error(JSON.stringify(outcome.errors));
  return outcome.plan;
}

const names = (form: FormSpec, values: Values = form.initial) =>
  form.fields(values).map((field) => field.name);

function wall(plan: Plan): Device {
  const found = plan.devices.find((device) => device.id === "wall");
  if (!found) throw new Error("no wall");
  return found;
}

describe("forms drawn from the schema", () => {
  const plan = fullPlan();
  const device = wall(plan);

  it.each([
    ...formsOf(plan),
    ...formsOf(demoPlan("marrow-bay")).map(([title, form]): [string, FormSpec] => [`demo: ${title}`, form]),
  ])("opened and saved is no edit: %s", (_, form) => {
    expect(form.read(form.initial)).toEqual({ ok: true, edit: null });
  });

  it("leave nothing of a plan to the document alone", () => {
    const elsewhere = {
      // The drawing pins it, lists of items have forms of their own.
      device: ["place.x", "place.y", "policy.rules", "destNat", "marks"],
      table: ["routes"],
      interface: ["virtual"],
      none: [],
    };
    const drawn = (form: (values: Values) => FormSpec, tries: Values[]) =>
      new Set(tries.flatMap((values) => names(form(values), values)));
    const kinds = ["probe", "bfd", "interface", "route", "group"];
    const cases: [string, Iterable<string>, Set<string>, string[]][] = [
      [
        "device",
        fieldsOfSchema(deviceSettingsSchema).keys(),
        new Set([
          ...["provider", "cloud"].flatMap((role) => names(deviceForm(plan, device), { role })),
          ...names(policyForm(plan, device)),
        ]),
        elsewhere.device,
      ],
      [
        "interface",
        fieldsOfSchema(interfaceSchema).keys(),
        drawn(() => interfaceForm(plan, device, null), [{ kind: "tunnel" }, { kind: "bundle" }]),
        elsewhere.interface,
      ],
      [
        "table",
        fieldsOfSchema(policyTableSchema).keys(),
        drawn(() => tableForm(plan, device, null), [{}]),
        elsewhere.table,
      ],
      [
        "route",
        fieldsOfSchema(staticRouteSchema).keys(),
        drawn(() => tableRouteForm(plan, device, device.policyTables[0], null), [{}]),
        [],
      ],
      [
        "learned",
        fieldsOfSchema(learnedRouteSchema).keys(),
        drawn(() => learnedForm(plan, device, null), [{}]),
        [],
      ],
      [
        "translation",
        fieldsOfSchema(sourceNatSchema).keys(),
        drawn(() => translationForm(plan, device, null), [{}]),
        [],
      ],
      [
        "destination translation",
        fieldsOfSchema(destinationNatSchema).keys(),
        drawn(() => destinationForm(plan, device, null), [{}]),
        [],
      ],
      ["mark", fieldsOfSchema(markSchema).keys(), drawn(() => markForm(plan, device, null), [{}]), []],
      ["rule", fieldsOfSchema(policyRuleSchema).keys(), drawn(() => ruleForm(plan, device, null), [{}]), []],
      [
        "flow",
        fieldsOfSchema(flowSchema).keys(),
        drawn(() => flowForm(plan, null), [{ protocol: "tcp" }]),
        ["id"],
      ],
      [
        "gateway",
        fieldsOfSchema(gatewaySchema).keys(),
        drawn(() => gatewayForm(plan, plan.gateways[0]), [{}]),
        [],
      ],
      ["link", fieldsOfSchema(linkSchema).keys(), drawn(() => linkForm(plan, plan.links[0]), [{}]), []],
      ["profile", fieldsOfSchema(profileSchema).keys(), drawn(() => profileForm(plan, null), [{}]), []],
      ["risk", fieldsOfSchema(riskSchema).keys(), drawn(() => riskForm(plan, plan.risks[0]), [{}]), []],
      ["pair", fieldsOfSchema(pairSchema).keys(), drawn(() => pairForm(plan, plan.pairs[0]), [{}]), []],
      [
        "virtual router",
        [...fieldsOfSchema(virtualRouterSchema).keys()].map((name) =>
          name === "track" ? "track.0.what" : name,
        ),
        drawn(() => virtualForm(plan, device, device.interfaces[0], null), [{}]),
        [],
      ],
      ["plan", fieldsOfSchema(planSettingsSchema).keys(), drawn(() => planForm(plan), [{}]), []],
      ...watchSchema.options.map((option, n): [string, Iterable<string>, Set<string>, string[]] => [
        `watch ${n}`,
        fieldsOfSchema(option).keys(),
        drawn(
          () => watchForm(plan, device, null),
          kinds.map((kind) => ({ kind })),
        ),
        [],
      ]),
    ];
    for (const [what, fields, found, other] of cases)
      expect(
        [...fields].filter((name) => !found.has(name) && !other.includes(name)),
        what,
      ).toEqual([]);
  });

  it("put an error at its field", () => {
    const at = (form: FormSpec, typed: Values) => {
      const reading = form.read({ ...form.initial, ...typed });
      return reading.ok ? [] : Object.keys(reading.errors);
    };
    expect(at(interfaceForm(plan, device, device.interfaces[0]), { addresses: "10.1.0.1" })).toEqual([
      "addresses",
    ]);
    expect(at(interfaceForm(plan, device, device.interfaces[3]), { "underlay.to": "nowhere" })).toEqual([
      "underlay.to",
    ]);
    expect(at(interfaceForm(plan, device, device.interfaces[0]), { metric: "many" })).toEqual(["metric"]);
    expect(at(translationForm(plan, device, null), { out: "nothing" })).toEqual(["out"]);
    expect(
      at(tableForm(plan, device, device.policyTables[0]), {
        "match.in": "",
        "match.from": "",
        "match.to": "",
        "match.protocol": "",
        "match.port": "",
        "match.mark": "",
      }),
    ).toHaveLength(1);
    expect(at(policyForm(plan, device), { "policy.trust": "inside" })).toEqual(["policy.trust"]);
    expect(at(ruleForm(plan, device, 0), { port: "99999" })).toEqual(["port"]);
    expect(at(flowForm(plan, plan.flows[0]), { to: "nobody" })).toEqual(["to"]);
    expect(at(learnedForm(plan, device, device.learned[0]), { protocol: "static" })).toEqual(["protocol"]);
    expect(at(profileForm(plan, plan.profiles[0]), { staticDistance: "300" })).toEqual(["staticDistance"]);
  });

  it("take references along where a name is changed", () => {
    const renamed = saved(plan, interfaceForm(plan, device, device.interfaces[1]), {
      name: "uplink",
      metric: "7",
    });
    const after = wall(renamed);
    expect(after.interfaces[1]).toMatchObject({ name: "uplink", metric: 7 });
    expect(after.routes[0].out).toBe("uplink");
    expect(renamed.gateways[0].at).toBe("wall/uplink");
    expect(saved(plan, deviceForm(plan, device), { id: "guard" }).links[0].ends).toContain("guard/in");
    expect(wall(saved(plan, watchForm(plan, device, device.watches[4]), { id: "all" })).routes[0].watch).toBe(
      "all",
    );
  });

  it("write what is typed, and take out what is emptied", () => {
    expect(
      wall(saved(plan, interfaceForm(plan, device, device.interfaces[1]), { hardware: "", zone: "dmz" }))
        .interfaces[1],
    ).toEqual({
      name: "out",
      addresses: ["192.0.2.2/30", "fe80::1/64"],
      zone: "dmz",
    });
    expect(
      wall(saved(plan, policyForm(plan, device), { "policy.trust": "outside inside" })).policy?.trust,
    ).toEqual(["outside", "inside"]);
    expect(
      wall(saved(plan, ruleForm(plan, device, null), { action: "deny", port: "22" })).policy?.rules,
    ).toHaveLength(2);
    expect(
      wall(saved(plan, interfaceForm(plan, device, device.interfaces[3]), { "underlay.from": "" }))
        .interfaces[3].underlay,
    ).toEqual({
      to: "203.0.113.9",
      keepaliveMs: 10_000,
      failAfter: 3,
    });
  });
});
