import { describe, expect, it } from "vitest";
import { applyEdit, type Device, type Plan, type VirtualRouter } from "../core/plan/index.ts";
import { NetworkModel } from "../core/scenario/index.ts";
import { datastoreOf } from "../stand-ins/datastore.ts";
import { demoPlan, planOf } from "../tests/support/plans.ts";
import { driftOf } from "./drift.ts";
import { editOfDrift } from "./drift-edit.ts";
import { readFiles } from "./readings.ts";
import { rebuildPlan } from "./rebuild/plan.ts";
import { datastoreEdits } from "./texts/ietf-edit.ts";
import { omissionsOf } from "./texts/omissions.ts";
import { writeFiles } from "./writers/index.ts";

/** As RFC 8347's tree has it, by hand: an instance of each version, a tracked interface and a tracked network. */
const json = JSON.stringify(
  {
    "ietf-interfaces:interfaces": {
      interface: [
        {
          name: "up",
          type: "iana-if-type:ethernetCsmacd",
          "ietf-ip:ipv4": { address: [{ ip: "192.0.2.1", "prefix-length": 30 }] },
        },
        {
          name: "lan",
          type: "iana-if-type:ethernetCsmacd",
          "ietf-ip:ipv4": {
            address: [{ ip: "172.20.16.2", "prefix-length": 24 }],
            "ietf-vrrp:vrrp": {
              "vrrp-instance": [
                {
                  vrid: 16,
                  version: "ietf-vrrp:vrrp-v3",
                  priority: 110,
                  "accept-mode": true,
                  preempt: { enabled: true, "hold-time": 30 },
                  "advertise-interval-centi-sec": 20,
                  track: {
                    interfaces: { interface: [{ interface: "up", "priority-decrement": 40 }] },
                    networks: { network: [{ prefix: "10.0.0.0/8", "priority-decrement": 10 }] },
                  },
                  "virtual-ipv4-addresses": { "virtual-ipv4-address": [{ "ipv4-address": "172.20.16.1" }] },
                },
                {
                  vrid: 17,
                  version: "ietf-vrrp:vrrp-v2",
                  preempt: { enabled: false },
                  "advertise-interval-sec": 3,
                  "virtual-ipv4-addresses": { "virtual-ipv4-address": [{ "ipv4-address": "172.20.16.9" }] },
                },
                { vrid: 18 },
              ],
            },
          },
        },
      ],
    },
  },
  null,
  2,
);

const usual = {
  priority: 100,
  preempt: true,
  preemptDelayMs: 0,
  advertMs: 1000,
  accept: false,
  track: [],
  active: null,
};

describe("virtual routers as RFC 8347 has them", () => {
  it("are read with the model's own defaults; what is not read is told", () => {
    const { devices, lines } = readFiles([{ name: "left/config.json", text: json }]);
    const lan = devices[0].facts.interfaces.find(({ name }) => name === "lan");
    expect(lan?.virtual).toEqual([
      {
        ...{ id: 16, addresses: ["172.20.16.1"], priority: 110, preempt: true, preemptDelayMs: 30_000 },
        ...{ advertMs: 200, accept: true, track: [{ interface: "up", lower: 40 }], active: null },
      },
      { ...usual, id: 17, addresses: ["172.20.16.9"], preempt: false, advertMs: 3000 },
    ]);
    const line = lines.find(({ detail }) => detail.startsWith("the interface lan"));
    expect(line?.fate).toBe("doubtful");
    expect(line?.detail).toBe(
      "the interface lan with 172.20.16.2/24, the virtual router 16, 17; not read: networks tracked by the virtual router 16, a virtual router without an address",
    );
  });

  it("are read from XML too, where tracked interfaces are called as interfaces are; lines stay those of the interfaces", () => {
    const text = `<data xmlns="urn:ietf:params:xml:ns:netconf:base:1.0">
  <interfaces xmlns="urn:ietf:params:xml:ns:yang:ietf-interfaces">
    <interface><name>lan</name>
      <ipv6 xmlns="urn:ietf:params:xml:ns:yang:ietf-ip">
        <address><ip>2001:db8:16::2</ip><prefix-length>64</prefix-length></address>
        <vrrp xmlns="urn:ietf:params:xml:ns:yang:ietf-vrrp"><vrrp-instance><vrid>6</vrid>
          <track><interfaces>
            <interface><interface>up</interface><priority-decrement>7</priority-decrement></interface>
          </interfaces></track>
          <virtual-ipv6-addresses><virtual-ipv6-address><ipv6-address>2001:db8:16::1</ipv6-address></virtual-ipv6-address></virtual-ipv6-addresses>
        </vrrp-instance></vrrp>
      </ipv6>
    </interface>
    <interface><name>up</name></interface>
  </interfaces>
</data>`;
    const { devices, lines } = readFiles([{ name: "left/config.xml", text }]);
    expect(devices[0].facts.interfaces.map(({ name, virtual }) => [name, virtual])).toEqual([
      ["lan", [{ ...usual, id: 6, addresses: ["2001:db8:16::1"], track: [{ interface: "up", lower: 7 }] }]],
      ["up", []],
    ]);
    expect(lines.filter(({ detail }) => detail.startsWith("the interface")).map(({ line }) => line)).toEqual([
      3, 14,
    ]);
  });

  it.each(["ietf-json", "ietf-xml"] as const)("go out and come in again as %s", (as) => {
    const plan = shared();
    for (const device of [
      plan.devices[0],
      demoPlan("marrow-bay").devices.find(({ id }) => id === "office-core-1") as Device,
    ]) {
      const files = writeFiles(device.id === "office-core-1" ? demoPlan("marrow-bay") : plan, as, device.id);
      const outcome = rebuildPlan(readFiles(files), "read");
      if (!outcome.ok) throw new Error(outcome.errors[0].message);
      const [read] = outcome.rebuilt.plan.devices;
      const told = ({ interfaces }: Device) => interfaces.map(({ name, virtual = [] }) => [name, virtual]);
      expect(told(read)).toEqual(told(device));
    }
  });
});

function shared(more: Partial<VirtualRouter>[] = [{}]): Plan {
  const virtual = more.map((one, n) => ({
    id: 16 + n,
    addresses: [`172.20.16.${1 + n}`, `2001:db8:16::${1 + n}`],
    priority: 120,
    track: [{ interface: "up", lower: 30 }],
    ...one,
  }));
  return planOf({
    devices: [
      {
        id: "left",
        role: "router",
        interfaces: [
          { name: "lan", addresses: ["172.20.16.10/24", "2001:db8:16::10/64"], virtual },
          { name: "up", addresses: ["192.0.2.1/30"] },
        ],
        watches: [{ id: "far", kind: "interface", interface: "up" }],
      },
    ],
  });
}

describe("a step that changes a virtual router", () => {
  const edits = (before: Plan, after: Plan) =>
    datastoreEdits(
      { plan: before, device: before.devices[0] },
      { plan: after, device: after.devices[0] },
    ).map(({ operation, target }) => [
      operation,
      target.map(({ name, keys }) => keys?.vrid ?? name).join(" "),
    ]);
  const at = (family: number, vrid: number) =>
    `ietf-interfaces:interfaces interface ietf-ip:ipv${family} ietf-vrrp:vrrp ${vrid}`;

  it("replaces it whole, in both its families, and leaves the others alone", () => {
    expect(edits(shared([{}, {}]), shared([{ priority: 90 }, {}]))).toEqual([
      ["replace", at(4, 16)],
      ["replace", at(6, 16)],
    ]);
    expect(edits(shared([{}]), shared([{}, {}]))).toEqual([
      ["create", at(4, 17)],
      ["create", at(6, 17)],
    ]);
    expect(edits(shared([{}, {}]), shared([{}]))).toEqual([
      ["remove", at(4, 17)],
      ["remove", at(6, 17)],
    ]);
    expect(edits(shared(), shared())).toEqual([]);
  });

  it("says what the model has no words for, of those that change alone", () => {
    const unsaid = (before: Partial<VirtualRouter>[], after: Partial<VirtualRouter>[]) => {
      const [was, now] = [shared(before), shared(after)].map((plan) => plan.devices[0].interfaces[0]);
      return omissionsOf(
        { in: "device", device: "left", collection: "interfaces", before: was, after: now },
        "ietf",
      );
    };
    const watched = { track: [{ watch: "far", lower: 20 }] };
    expect(unsaid([{}], [{ priority: 90 }])).toEqual([]);
    expect(unsaid([{}], [watched])).toHaveLength(1);
    expect(unsaid([{}], [{ preemptDelayMs: 1500 }])).toHaveLength(1);
    expect(unsaid([watched], [watched, {}])).toEqual([]);
  });
});

describe("drift of virtual routers", () => {
  const said = (plan: Plan, change: (instance: Record<string, unknown>) => void = () => {}) => {
    const [file] = writeFiles(plan, "ietf-json", "left");
    const tree = JSON.parse(file.text);
    for (const port of tree["ietf-interfaces:interfaces"].interface) {
      for (const key of ["ietf-ip:ipv4", "ietf-ip:ipv6"])
        for (const instance of port[key]?.["ietf-vrrp:vrrp"]?.["vrrp-instance"] ?? []) change(instance);
    }
    const { devices } = readFiles([{ name: file.name, text: JSON.stringify(tree) }]);
    return devices.map(({ facts }) => ({ ...facts, device: "left" }));
  };
  const drift = (plan: Plan, facts: ReturnType<typeof said>) =>
    driftOf(NetworkModel.compile(plan), facts).differences.filter(({ kind }) => kind.startsWith("virtual"));

  it("is none where a device says what the plan has, what the model has no words for left aside", () => {
    const plan = shared([{}, { track: [{ watch: "far", lower: 20 }], sync: "s" }]);
    expect(drift(plan, said(plan))).toEqual([]);
    // A source without any says nothing about them.
    const silent = said(plan).map((facts) => ({
      ...facts,
      interfaces: facts.interfaces.map((port) => ({ ...port, virtual: [] })),
    }));
    expect(drift(plan, silent)).toEqual([]);
  });

  it("tells what is missing, extra or otherwise, each family by itself, and takes it over", () => {
    const plan = shared([{}, {}]);
    const other = shared([{ priority: 90, track: [] }, { id: 18 }]);
    const facts = said(other);
    const found = drift(plan, facts);
    expect(found.map(({ kind, text }) => [kind, text])).toEqual([
      [
        "virtual-differs",
        "the virtual router 16 of lan in IPv4: priority 90, planned: priority 120, tracks no interface, planned: tracks up for 30",
      ],
      [
        "virtual-differs",
        "the virtual router 16 of lan in IPv6: priority 90, planned: priority 120, tracks no interface, planned: tracks up for 30",
      ],
      ["virtual-missing", "the virtual router 17 of lan in IPv4 is missing on the device"],
      ["virtual-missing", "the virtual router 17 of lan in IPv6 is missing on the device"],
      ["virtual-extra", "the virtual router 18 of lan in IPv4 (172.20.16.2) is not in the plan"],
      ["virtual-extra", "the virtual router 18 of lan in IPv6 (2001:db8:16::2) is not in the plan"],
    ]);
    const taken = editOfDrift(plan, facts, found);
    if (!taken.ok) throw new Error(taken.why);
    const outcome = applyEdit(plan, taken.edit);
    if (!outcome.ok) throw new Error(outcome.errors[0].message);
    expect(drift(outcome.plan, facts)).toEqual([]);
    // One alone: the other family and what tracks a watch stay.
    const watched = shared([{ track: [{ watch: "far", lower: 20 }] }]);
    const [first] = drift(watched, said(shared([{ priority: 90, track: [] }])));
    const one = editOfDrift(watched, facts, [first]);
    if (!one.ok) throw new Error(one.why);
    const now = applyEdit(watched, one.edit);
    if (!now.ok) throw new Error(now.errors[0].message);
    expect(
      now.plan.devices[0].interfaces[0].virtual?.map(({ id, addresses, priority, track }) => ({
        id,
        addresses,
        priority,
        track,
      })),
    ).toEqual([
      { id: 16, addresses: ["2001:db8:16::1"], priority: 120, track: [{ watch: "far", lower: 20 }] },
      { id: 16, addresses: ["172.20.16.1"], priority: 90, track: [{ watch: "far", lower: 20 }] },
    ]);
  });

  it("tells who is Active though another is predicted to be, under the conditions that are shown", () => {
    const desk = { id: "desk", role: "host", interfaces: [{ name: "e", addresses: ["172.20.16.20/24"] }] };
    const plan = planOf({
      devices: [...shared().devices, desk],
      links: [{ id: "lan", medium: "switch", ends: ["left/lan", "desk/e"] }],
    });
    const backup = said(plan, (instance) => Object.assign(instance, { state: "ietf-vrrp:backup" }));
    expect(drift(plan, backup).map(({ kind, text }) => [kind, text])).toEqual([
      ["virtual-state", "the virtual router 16 of lan in IPv4 is Backup, predicted Active"],
      ["virtual-state", "the virtual router 16 of lan in IPv6 is Backup, predicted Active"],
    ]);
    const begun = said(plan, (instance) => Object.assign(instance, { state: "ietf-vrrp:initialize" }));
    expect(drift(plan, begun)).toEqual([]);
  });

  it("is none between the demo and what its devices would tell, with a line down too", () => {
    const model = NetworkModel.compile(demoPlan("marrow-bay"));
    for (const scenario of [model, model.under(["link:core-1-2"]), model.under(["device:office-core-1"])]) {
      for (const { id, role } of model.plan.devices) {
        if (role !== "router" && role !== "firewall") continue;
        const { devices } = readFiles([
          { name: `${id}.json`, text: JSON.stringify(datastoreOf(scenario, id)) },
        ]);
        const facts = devices.map((one) => ({ ...one.facts, device: id }));
        expect(driftOf(scenario, facts).differences.filter(({ kind }) => kind.startsWith("virtual"))).toEqual(
          [],
        );
      }
    }
  });
});
