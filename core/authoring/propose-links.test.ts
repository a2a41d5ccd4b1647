import { describe, expect, it } from "vitest";
import { demoPlan, planOf } from "../../tests/support/plans.ts";
import { applyEdit, type Plan } from "../plan/index.ts";
import { proposeLinks } from "./index.ts";

const router = (id: string, addresses: Record<string, string[]>, more: Record<string, unknown> = {}) => ({
  id,
  role: "router",
  interfaces: Object.entries(addresses).map(([name, list]) => ({ name, addresses: list, ...more })),
});
const all = (plan: Plan) =>
  new Set(plan.devices.flatMap((device) => device.interfaces.map((port) => `${device.id}/${port.name}`)));
const proposed = (devices: unknown[], links: unknown[] = []) => {
  const plan = planOf({ devices, links });
  return proposeLinks(plan, all(plan)).map(({ after }) => after);
};

describe("links that subnets imply", () => {
  it("join two by a cable, more by a switch", () => {
    const devices = [
      router("a", { wan: ["192.0.2.1/30"], lan: ["10.1.0.1/24"] }),
      router("b", { wan: ["192.0.2.2/30"], lan: ["10.1.0.2/24"] }),
      router("c", { lan: ["10.1.0.3/24"] }),
    ];
    expect(proposed(devices)).toEqual([
      { id: "a-b", label: "a – b", medium: "cable", ends: ["a/wan", "b/wan"] },
      {
        id: "segment-10-1-0-0-24",
        label: "Segment 10.1.0.0/24",
        medium: "switch",
        ends: ["a/lan", "b/lan", "c/lan"],
      },
    ]);
  });

  it("take IPv6 where there is no IPv4, and never join an interface twice", () => {
    const devices = [
      router("a", { x: ["192.0.2.1/30", "2001:db8::1/64"], y: ["2001:db8:1::1/64", "fe80::1/64"] }),
      router("b", { x: ["192.0.2.2/30", "2001:db8::2/64"], y: ["2001:db8:1::2/64", "fe80::2/64"] }),
    ];
    expect(proposed(devices).map((link) => link.ends)).toEqual([
      ["a/x", "b/x"],
      ["a/y", "b/y"],
    ]);
  });

  it.each([
    [
      "loopbacks",
      [
        router("a", { lo: ["10.0.0.1/24"] }, { kind: "loopback" }),
        router("b", { lo: ["10.0.0.2/24"] }, { kind: "loopback" }),
      ],
    ],
    ["host addresses", [router("a", { x: ["10.0.0.1/32"] }), router("b", { x: ["10.0.0.1/32"] })]],
    [
      "other VRFs",
      [router("a", { x: ["10.0.0.1/24"] }, { vrf: "red" }), router("b", { x: ["10.0.0.2/24"] })],
    ],
    ["only this device", [router("a", { x: ["10.0.0.1/24"], y: ["10.0.0.2/24"] })]],
    ["other masks", [router("a", { x: ["10.0.0.1/24"] }), router("b", { x: ["10.0.0.2/25"] })]],
  ])("are not made of %s", (_, devices) => {
    expect(proposed(devices)).toEqual([]);
  });

  it("add to a segment that exists, and leave a cable as it is", () => {
    const devices = [
      router("a", { x: ["10.0.0.1/24"] }),
      router("b", { x: ["10.0.0.2/24"] }),
      router("c", { x: ["10.0.0.3/24"] }),
    ];
    const segment = { id: "l", medium: "switch", ends: ["a/x", "b/x"] };
    expect(proposed(devices, [segment])).toEqual([{ ...segment, ends: ["a/x", "b/x", "c/x"] }]);
    expect(proposed(devices, [{ id: "l", ends: ["a/x", "b/x"] }])).toEqual([]);
    const two = [
      { id: "l", medium: "switch", ends: ["a/x"] },
      { id: "m", medium: "switch", ends: ["b/x"] },
    ];
    expect(proposed(devices, two)).toEqual([]);
  });

  it("are named after their ends once more where the name is taken", () => {
    const devices = [
      router("a", { x: ["10.0.0.1/24"], y: ["10.0.1.1/24"] }),
      router("b", { x: ["10.0.0.2/24"], y: ["10.0.1.2/24"] }),
    ];
    expect(proposed(devices).map(({ id }) => id)).toEqual(["a-b", "a-b-2"]);
  });

  it("give the demo's cables back once they are taken out, and are a sound edit", () => {
    const demo = demoPlan("marrow-bay");
    const bare: Plan = { ...demo, links: [], risks: [], pairs: [], outages: [] };
    const links = proposeLinks(bare, all(bare));
    const ends = (link: { ends: readonly string[] }) => [...link.ends].sort().join(" ");
    const before = new Set(demo.links.map(ends));
    expect(links.filter(({ after }) => !before.has(ends(after)))).toEqual([]);
    expect(links.length).toBeGreaterThan(demo.links.length / 2);
    const changes = links.map(
      ({ after }) => ({ in: "plan", collection: "links", before: null, after }) as const,
    );
    expect(applyEdit(bare, { label: "links", changes }).ok).toBe(true);
  });
});
