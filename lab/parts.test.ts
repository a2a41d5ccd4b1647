import { describe, expect, it } from "vitest";
import { planOf } from "../tests/support/plans.ts";
import { twoGateways } from "../tests/support/shared-plans.ts";
import { isPart, parted, partOf, wholeOf } from "./parts.ts";
import { showable } from "./showable.ts";
import { tunnelsOf } from "./tunnels.ts";
import { wiringOf } from "./wiring.ts";

const underlay = (to: string, more: object = {}) => ({ underlay: { to, keepaliveMs: 0, ...more } });

const plan = (policy: object = {}) =>
  planOf({
    devices: [
      {
        id: "r",
        label: "Router",
        role: "router",
        site: "here",
        interfaces: [
          { name: "out", addresses: ["192.0.2.1/30"] },
          { name: "trunk" },
          { name: "trunk.7", parent: "trunk", vlan: 7, vrf: "cctv", addresses: ["10.7.0.1/24"] },
          { name: "tun", kind: "tunnel", vrf: "cctv", addresses: ["10.9.0.1/30"], ...underlay("192.0.2.2") },
        ],
        routes: [
          { to: "0.0.0.0/0", via: "192.0.2.2" },
          { to: "10.8.0.0/24", via: "10.9.0.2", vrf: "cctv", watch: "tag" },
          { to: "10.20.0.0/24", via: "10.7.0.9", vrf: "cctv", watch: "way" },
          { to: "0.0.0.0/0", toVrf: "main", vrf: "cctv" },
        ],
        watches: [
          { id: "tag", kind: "interface", interface: "trunk.7" },
          { id: "way", kind: "interface", interface: "out" },
          { id: "net", kind: "route", to: "10.8.0.0/24", vrf: "cctv" },
          { id: "both", kind: "group", need: "any", of: ["tag", "net"] },
          { id: "mixed", kind: "group", need: "any", of: ["tag", "way"] },
        ],
        ...policy,
      },
      {
        id: "far",
        role: "router",
        interfaces: [
          { name: "out", addresses: ["192.0.2.2/30"] },
          { name: "tun", kind: "tunnel", addresses: ["10.9.0.2/30"], ...underlay("192.0.2.1") },
        ],
      },
      { id: "cam", role: "host", interfaces: [{ name: "e", addresses: ["10.7.0.10/24"] }] },
    ],
    links: [
      { id: "line", ends: ["r/out", "far/out"] },
      { id: "tags", medium: "switch", ends: ["r/trunk.7", "cam/e"] },
      { id: "drawn", ends: ["r/tun", "far/tun"] },
    ],
    risks: [{ id: "duct", of: ["interface:r/trunk.7", "device:r"] }],
    gateways: [{ id: "g", at: "r/trunk.7" }],
  });

describe("a plan whose VRFs are taken apart", () => {
  const { plan: parts, refs, leftOut } = parted(plan());
  const device = (id: string) => parts.devices.find((one) => one.id === id);

  it("has each as a device of its own, with what is in it and what looks from it", () => {
    expect(parts.devices.map(({ id }) => id)).toEqual(["r", "r~cctv", "far", "cam"]);
    expect([
      isPart("r~cctv"),
      isPart("r"),
      wholeOf("r~cctv"),
      partOf("r", "cctv"),
      partOf("r", "main"),
    ]).toEqual([true, false, "r", "r~cctv", "r"]);
    expect(device("r")?.interfaces.map(({ name }) => name)).toEqual(["out", "trunk"]);
    expect(device("r~cctv")?.interfaces.map(({ name, vrf }) => [name, vrf])).toEqual([
      ["trunk.7", undefined],
      ["tun", undefined],
    ]);
    expect(device("r")?.routes.map(({ to }) => to)).toEqual(["0.0.0.0/0"]);
    expect(device("r~cctv")?.routes).toMatchObject([{ to: "10.8.0.0/24", watch: "tag" }]);
    expect(device("r")?.watches.map(({ id }) => id)).toEqual(["way"]);
    expect(device("r~cctv")?.watches.map(({ id }) => id)).toEqual(["tag", "net", "both"]);
    expect(parts.gateways[0].at).toBe("r~cctv/trunk.7");
    expect(leftOut).toEqual([
      "Router: 1 routes from one VRF into another",
      "Router, VRF cctv: 1 routes with watches of another VRF",
    ]);
  });

  it("knows its elements by the references of the plan as it is written", () => {
    expect(refs(["device:r", "device:cam", "link:line", "site:here"])).toEqual([
      ...["device:r", "device:r~cctv", "device:cam", "link:line", "site:here"],
    ]);
    expect(refs(["interface:r/out", "interface:r/trunk.7", "watch:r/way", "watch:r/tag"])).toEqual([
      ...["interface:r/out", "interface:r~cctv/trunk.7", "watch:r/way", "watch:r~cctv/tag"],
    ]);
    // A link between tunnels is nothing that could be cut: both its ends go.
    expect(refs(["link:drawn"])).toEqual(["interface:r~cctv/tun", "interface:far/tun"]);
    expect(parts.links.map(({ id }) => id)).toEqual(["line", "tags"]);
    expect(parts.risks[0].of).toEqual(["interface:r~cctv/trunk.7", "device:r", "device:r~cctv"]);
  });

  it("loses tags with what carries them, in whichever VRF that is", () => {
    const { dark, mute } = wiringOf(parts, ["interface:r/trunk"]);
    expect(dark.has("r~cctv/trunk.7")).toBe(true);
    expect(mute.has("r~cctv/trunk.7")).toBe(true);
  });

  it("is the very same where there is but one", () => {
    const one = planOf({ devices: [{ id: "a", role: "router", interfaces: [{ name: "e" }] }] });
    expect(parted(one).plan.devices[0]).toBe(one.devices[0]);
  });
});

describe("tunnels of a lab", () => {
  it("are pairs of ends that know each other, over the tables of their underlay", () => {
    expect(tunnelsOf(plan())).toEqual([
      {
        ...{ end: "r~cctv/tun", name: "tun", under: "r", from: "192.0.2.1", to: "192.0.2.2" },
        ...{ number: 1, keepaliveMs: 0, failAfter: 3 },
      },
      {
        ...{ end: "far/tun", name: "tun", under: "far", from: "192.0.2.2", to: "192.0.2.1" },
        ...{ number: 1, keepaliveMs: 0, failAfter: 3 },
      },
    ]);
    const shown = showable(plan());
    expect(shown.plan.devices.find(({ id }) => id === "far")?.interfaces.map(({ name }) => name)).toEqual([
      "out",
      "tun",
    ]);
  });

  it("are left out, and told, where somebody filters or the far end leads elsewhere", () => {
    const filtered = showable(plan({ policy: { rules: [] } }));
    expect(filtered.tunnels).toEqual([]);
    expect(filtered.leftOut.some((text) => text.includes("tun"))).toBe(true);
    const { devices, ...rest } = plan();
    const astray = planOf({
      ...rest,
      devices: devices.map((one) =>
        one.id === "far" ? { ...one, interfaces: [one.interfaces[0], { name: "tun" }] } : one,
      ),
      links: rest.links.filter(({ id }) => id !== "drawn"),
    });
    expect(tunnelsOf(astray)).toEqual([]);
  });
});

it("routes by a virtual address of the device's own are left out of a lab, and told", () => {
  const byOwn = { to: "10.66.0.0/16", via: "172.20.16.1" };
  const shown = showable(twoGateways({ ra: { routes: [{ to: "0.0.0.0/0", via: "198.51.100.1" }, byOwn] } }));
  expect(shown.plan.devices.find(({ id }) => id === "ra")?.routes.map(({ to }) => to)).toEqual(["0.0.0.0/0"]);
  expect(shown.leftOut).toEqual(["ra: 1 of its routes (through its own virtual address)"]);
});
