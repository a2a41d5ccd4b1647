import { describe, expect, it } from "vitest";
import { planOf } from "../../tests/support/plans.ts";
import { firewalls, learnt, probe, sharedTwins, tracking } from "../../tests/support/shared-mistakes.ts";
import { pairOfFirewalls, twoGateways } from "../../tests/support/shared-plans.ts";
import { applyEdit, type Plan } from "../plan/index.ts";
import { NetworkModel } from "../scenario/index.ts";
import { findAll } from "./index.ts";

const codes = (plan: Plan) =>
  findAll(NetworkModel.compile(plan), { fixes: false }).map((finding) => finding.code);

describe("checks of what several share (rules 14.6 and 19)", () => {
  it.each(sharedTwins.map(([code, trips, twin], i) => [`${code} ${i}`, code, trips, twin] as const))(
    "%s: trips, and its near twin does not",
    (_name, code, trips, twin) => {
      expect(codes(trips)).toContain(code);
      expect(codes(twin)).not.toContain(code);
    },
  );

  it.each([
    ["virtual-untracked", twoGateways()],
    ["virtual-lowering-too-small", tracking(10)],
    ["virtual-tracking-without-preempt", tracking(30, { b: { preempt: false } })],
    ["virtual-members-differ", twoGateways({ b: { addresses: ["172.20.16.9"] } })],
    ["virtual-equal-priorities", twoGateways({ b: { priority: 110 } })],
    ["virtual-probe-through-backup", probe()],
    ["virtual-split", firewalls(110, 90)],
    ["returns-too-early", learnt(0)],
    ["pair-differs", pairOfFirewalls({ b: { routes: [] } })],
  ] as const)("%s: has a fix that removes it", (code, plan) => {
    const found = findAll(NetworkModel.compile(plan)).find((finding) => finding.code === code);
    expect(found?.fixes.length).toBeGreaterThan(0);
    const outcome = applyEdit(plan, found?.fixes[0].edit as never);
    if (!outcome.ok) throw new Error(outcome.errors[0].message);
    expect(codes(outcome.plan)).not.toContain(code);
  });

  it("virtual-untracked: one finding and one fix for the virtual routers of both families on an interface", () => {
    const four = twoGateways();
    const six: Record<string, { lan: string; wan: string; via: string }> = {
      ra: { lan: "2001:db8:16::2/64", wan: "2001:db8:a::2/64", via: "2001:db8:a::1" },
      rb: { lan: "2001:db8:16::3/64", wan: "2001:db8:b::2/64", via: "2001:db8:b::1" },
    };
    const devices = four.devices.map((device) => {
      const own = six[device.id];
      const add = (name: string, address: string) =>
        device.interfaces.map((one) =>
          one.name === name ? { ...one, addresses: [...one.addresses, address] } : one,
        );
      if (own)
        return {
          ...device,
          interfaces: device.interfaces.map((one) =>
            one.name === "lan"
              ? {
                  ...one,
                  addresses: [...one.addresses, own.lan],
                  virtual: [
                    ...(one.virtual ?? []),
                    { ...one.virtual?.[0], id: 6, addresses: ["fe80::16", "2001:db8:16::1"] },
                  ],
                }
              : { ...one, addresses: [...one.addresses, own.wan] },
          ),
          routes: [...device.routes, { to: "::/0", via: own.via }],
        };
      if (device.id === "isp")
        return {
          ...device,
          interfaces: device.interfaces.map((one) => ({
            ...one,
            addresses: [
              ...one.addresses,
              { a: "2001:db8:a::1/64", b: "2001:db8:b::1/64", srv: "2001:db8:80::1/64" }[one.name],
            ],
          })),
          routes: [
            ...device.routes,
            { to: "2001:db8:16::/64", via: "2001:db8:a::2" },
            { to: "2001:db8:16::/64", via: "2001:db8:b::2", distance: 10 },
          ],
        };
      const [address, gateway] =
        device.id === "pc"
          ? ["2001:db8:16::10/64", "2001:db8:16::1"]
          : ["2001:db8:80::80/64", "2001:db8:80::1"];
      return {
        ...device,
        interfaces: add("eth0", address),
        routes: [...device.routes, { to: "::/0", via: gateway }],
      };
    });
    const flow = { id: "f6", from: "pc", to: "2001:db8:80::80" };
    const plan = planOf({ ...four, devices, flows: [...four.flows, flow] } as never);
    const untracked = (one: Plan) =>
      findAll(NetworkModel.compile(one)).filter(({ code }) => code === "virtual-untracked");
    const [found, ...more] = untracked(plan);
    expect(more).toEqual([]);
    expect(found.text).toContain("f, f6");
    expect(found.fixes.length).toBeGreaterThan(0);
    for (const { edit } of found.fixes) {
      const outcome = applyEdit(plan, edit);
      if (!outcome.ok) throw new Error(outcome.errors[0].message);
      expect(untracked(outcome.plan)).toEqual([]);
    }
  });

  it("judges the routes of one that stands by as if it were active", () => {
    const routes = (via: string) => ({ routes: [{ to: "0.0.0.0/0", via }] });
    const sound = codes(pairOfFirewalls());
    expect(sound).not.toContain("next-hop-unresolved");
    expect(sound).not.toContain("route-unusable");
    const wrong = findAll(NetworkModel.compile(pairOfFirewalls({ b: routes("192.0.2.1") })), {
      fixes: false,
    });
    expect(wrong.filter(({ code }) => code === "next-hop-unresolved").map(({ device }) => device)).toEqual([
      "fwb",
    ]);
  });
});
