import { describe, expect, it } from "vitest";
import { readPlan } from "../core/plan/index.ts";
import { rulesetOf } from "./firewall.ts";

function ruleset(device: Record<string, unknown>, flows: unknown[] = []): string {
  const read = readPlan({
    ironFork: 1,
    name: "filtered",
    devices: [
      {
        id: "fw",
        role: "firewall",
        interfaces: [
          { name: "lan", addresses: ["10.0.0.1/24"], zone: "inside" },
          { name: "wan", addresses: ["192.0.2.1/30"], zone: "outside" },
          { name: "spare", addresses: [] },
        ],
        ...device,
      },
      { id: "desk", role: "host", interfaces: [{ name: "eth0", addresses: ["10.0.0.9/24"] }] },
    ],
    links: [{ id: "l", ends: ["fw/lan", "desk/eth0"] }],
    flows,
  });
  if (!read.ok) throw new Error(read.errors[0].message);
  return rulesetOf(read.plan, read.plan.devices[0]) ?? "";
}

/** The lines of a chain, as they stand. */
const chain = (text: string, name: string) =>
  (text.split(`chain ${name} {\n`)[1] ?? "").split("\n}")[0].split("\n").filter(Boolean);

describe("a device's rules for the kernel", () => {
  it("are none without translation and policy", () => {
    expect(ruleset({})).toBe("");
  });

  it("translate by the first entry that fits, each family by itself", () => {
    const text = ruleset({
      sourceNat: [
        { out: "wan", from: ["10.0.0.0/8", "fd00::/8"], to: "interface" },
        { out: "wan", to: "192.0.2.77" },
      ],
    });
    expect(text.split("\n").filter((line) => line.startsWith("oifname"))).toEqual([
      'oifname "wan" ip saddr { 10.0.0.0/8 } masquerade',
      'oifname "wan" snat to 192.0.2.77',
      'oifname "wan" ip6 saddr { fd00::/8 } masquerade',
    ]);
  });

  it("judge a rehearsed flow by what it stands for", () => {
    const text = ruleset(
      {
        policy: {
          rules: [{ from: ["inside"], to: ["outside"], action: "allow", protocol: "tcp", port: "400-500" }],
        },
      },
      [
        { id: "web", from: "desk", to: "192.0.2.2", protocol: "tcp", port: 443 },
        { id: "mail", from: "desk", to: "192.0.2.2", protocol: "tcp", port: 25 },
        { id: "ping", from: "desk", to: "192.0.2.2" },
      ],
    );
    expect(chain(text, "flows")[0]).toBe('iifname { "lan" } oifname { "wan" } udp dport { 20000 } accept');
    expect(chain(text, "others")[0]).toBe(
      'iifname { "lan" } oifname { "wan" } meta l4proto tcp th dport 400-500 accept',
    );
    expect(chain(text, "flows").at(-1)).toBe("drop");
  });

  it("go from rules to trust to what holds within a zone to the default", () => {
    const text = ruleset({
      policy: { trust: ["inside", "outside"], sameZone: "deny", default: "allow", rules: [] },
    });
    expect(chain(text, "others")).toEqual([
      'iifname { "lan" } oifname { "wan" } accept',
      'iifname { "lan" } oifname { "lan" } drop',
      'iifname { "wan" } oifname { "wan" } drop',
      'iifname { "spare" } oifname { "spare" } drop',
      "accept",
    ]);
  });

  it("leave out a rule about a zone that no interface is in", () => {
    const text = ruleset({ policy: { rules: [{ from: ["guests"], action: "allow" }] } });
    expect(chain(text, "others")[0]).not.toContain("iifname {  }");
    expect(text).toContain("ct state established,related accept");
  });
});
