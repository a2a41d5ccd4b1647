import { describe, expect, it } from "vitest";
import { halfSeen } from "../../tests/support/mistakes.ts";
import { planOf, tripOf } from "../../tests/support/plans.ts";
import { bundleOfTwo } from "../../tests/support/shared-plans.ts";
import type { Plan } from "../plan/index.ts";
import { NetworkModel } from "../scenario/index.ts";
import { explainTrip } from "../words/index.ts";
import { findAll } from "./index.ts";

type Loose = Record<string, unknown>;

const port = (name: string, ...addresses: string[]) => ({ name, addresses });
const found = (document: Loose, code: string) => foundIn(planOf(document), code);
const foundIn = (plan: Plan, code: string) =>
  findAll(NetworkModel.compile(plan), { fixes: true }).filter((one) => one.code === code);

describe("findings about what a device has twice, or once", () => {
  const learner = (distance: number) => ({
    devices: [
      {
        id: "a",
        role: "router",
        interfaces: [port("x", "10.0.0.1/30"), port("y", "10.0.1.1/30")],
        routes: [{ to: "10.9.0.0/16", via: "10.0.0.2", distance }],
        learned: [
          { to: "10.9.0.0/16", via: "10.0.1.2", protocol: "ospf", distance: 110, lostAfterMs: 40_000 },
        ],
      },
      { id: "b", role: "router", interfaces: [port("x", "10.0.0.2/30"), port("l", "10.9.0.1/16")] },
      { id: "c", role: "router", interfaces: [port("y", "10.0.1.2/30")] },
      { id: "h", role: "host", interfaces: [port("e", "10.9.0.9/16")] },
    ],
    links: [
      { id: "ab", ends: ["a/x", "b/x"] },
      { id: "ac", ends: ["a/y", "c/y"] },
      { id: "l", ends: ["b/l", "h/e"] },
    ],
  });

  it("a static and a learned route of one distance, with both ways out", () => {
    expect(found(learner(90), "distance-tie")).toEqual([]);
    const [finding] = found(learner(110), "distance-tie");
    expect(finding.text).toContain("the ospf route to 10.9.0.0/16 both have the distance 110");
    expect(finding.fixes.map(({ label }) => label)[0]).toContain("Set the distance");
  });

  const twoFamilies = (six: Loose[]) => ({
    devices: [
      {
        id: "edge",
        role: "router",
        interfaces: [
          port("a", "10.0.0.1/30", "2001:db8:a::1/64"),
          port("b", "10.0.1.1/30", "2001:db8:b::1/64"),
        ],
        routes: [
          { to: "0.0.0.0/0", via: "10.0.0.2" },
          { to: "0.0.0.0/0", via: "10.0.1.2", distance: 50 },
          ...six,
        ],
      },
      ...["a", "b"].map((id, n) => ({
        id: `isp-${id}`,
        role: "router",
        interfaces: [
          port("e", `10.0.${n}.2/30`, `2001:db8:${id}::2/64`),
          port("up", `10.5.${n}.1/24`, `2001:db8:5${n}::1/64`),
        ],
      })),
    ],
    links: [
      { id: "a", ends: ["edge/a", "isp-a/e"] },
      { id: "b", ends: ["edge/b", "isp-b/e"] },
    ],
  });

  it("a default whose backup is in one address family only, with its twin as the fix", () => {
    const [finding] = found(twoFamilies([{ to: "::/0", via: "2001:db8:a::2" }]), "family-without-backup");
    expect(finding.text).toContain("the IPv4 default has a backup by b, but the IPv6 default");
    expect(finding.fixes[0].edit.changes).toEqual([
      {
        ...{ in: "device", device: "edge", collection: "routes", before: null },
        after: { to: "::/0", via: "2001:db8:b::2", distance: 50 },
      },
    ]);
    const both = [
      { to: "::/0", via: "2001:db8:a::2" },
      { to: "::/0", via: "2001:db8:b::2", distance: 50 },
    ];
    expect(found(twoFamilies(both), "family-without-backup")).toEqual([]);
    expect(found(twoFamilies([]), "family-without-backup")).toEqual([]);
  });

  it("15.3: unequal settings of a bundle's ends, each with a fix", () => {
    const { ironFork: _, name: __, ...plan } = bundleOfTwo({ left: { minUp: 2, lacp: "fast" }, right: {} });
    const findings = found(plan, "bundle-settings-differ");
    expect(findings.map(({ subject }) => subject.split(" ")[1])).toEqual(["minUp", "lacp"]);
    expect(findings.every(({ fixes }) => fixes.length > 0)).toBe(true);
  });
});

describe("what is no mistake is not told as one", () => {
  it("a route by the assigned gateway names more than an interface", () => {
    const document = {
      devices: [
        {
          id: "edge",
          role: "router",
          interfaces: [{ ...port("wan", "198.51.100.2/24"), gatewayFrom: "dhcp" }],
          routes: [{ to: "0.0.0.0/0", viaFrom: "wan" }],
        },
        { id: "isp", role: "provider", interfaces: [port("x", "198.51.100.1/24")] },
      ],
      links: [{ id: "w", medium: "switch", ends: ["edge/wan", "isp/x"] }],
    };
    expect(found(document, "interface-next-hop")).toEqual([]);
  });

  it("a summary to one router of a network does not swallow it for another", () => {
    const router = (id: string, n: number, more: Loose = {}) => ({
      id,
      role: "router",
      interfaces: [port("hub", `10.0.${n}.2/30`), port("lan", `172.20.1.${n}/24`)],
      routes: [{ to: "0.0.0.0/0", via: `10.0.${n}.1` }],
      ...more,
    });
    const document = {
      devices: [
        {
          id: "hub",
          role: "router",
          interfaces: [port("a", "10.0.1.1/30"), port("b", "10.0.2.1/30")],
          routes: [{ to: "172.20.0.0/16", via: "10.0.1.2" }],
        },
        router("a", 1),
        router("b", 2),
      ],
      links: [
        { id: "a", ends: ["hub/a", "a/hub"] },
        { id: "b", ends: ["hub/b", "b/hub"] },
        { id: "lan", medium: "switch", ends: ["a/lan", "b/lan"] },
      ],
    };
    expect(found(document, "summary-swallows")).toEqual([]);
  });

  it("says which other VRF has a route", () => {
    const model = NetworkModel.compile(
      planOf({
        devices: [
          {
            id: "r",
            role: "router",
            interfaces: [port("x", "10.0.0.1/30"), { ...port("g", "10.1.0.1/24"), vrf: "guest" }],
            routes: [{ to: "10.7.0.0/16", via: "10.1.0.9", vrf: "guest" }],
          },
          { id: "s", role: "router", interfaces: [port("x", "10.0.0.2/30"), port("g", "10.1.0.9/24")] },
        ],
        links: [
          { id: "x", ends: ["r/x", "s/x"] },
          { id: "g", medium: "switch", ends: ["r/g", "s/g"] },
        ],
      }),
    );
    const { world, gateways } = model;
    const trip = tripOf(world, "r", "10.7.0.1");
    expect(explainTrip(gateways, { world, trip }, { world, trip }).sentences[0]).toBe(
      "r has no route to 10.7.0.1 in VRF main, but has one in VRF guest.",
    );
  });
});

describe("TCP through a firewall that sees one direction", () => {
  const verdictOf = (plan: Plan) => NetworkModel.compile(plan).trips().get("f")?.verdict;

  it("gets no further than its first packets where it keeps state by a policy", () => {
    const document = halfSeen({ default: "allow" }, "tcp");
    expect(verdictOf(document)).toBe("one-way");
    expect(verdictOf(halfSeen({ default: "allow" }, "udp"))).toBe("works");
    expect(verdictOf(halfSeen({ default: "allow" }, "icmp"))).toBe("works");
    const [finding] = foundIn(document, "asymmetric-firewall");
    expect([finding.severity, finding.text]).toEqual([
      "error",
      "The firewall fw sees the forward path of flow f but not its replies, and drops all packets after the first.",
    ]);
  });

  it("is a finding too where the plan says no policy", () => {
    const document = halfSeen(null, "tcp");
    expect(verdictOf(document)).toBe("works");
    expect(foundIn(document, "asymmetric-firewall").map(({ severity }) => severity)).toEqual(["warning"]);
  });
});

describe("translation that is missing", () => {
  it("is offered on every exit by which a flow can leave", () => {
    const isp = (id: string, n: number) => ({
      id,
      role: "provider",
      interfaces: [port("c", `198.51.100.${n}/30`), port("w", `203.0.113.${n}/30`)],
      announces: [`198.51.100.${n - 1}/30`],
    });
    const [finding] = found(
      {
        devices: [
          {
            id: "pc",
            role: "host",
            interfaces: [port("e", "10.1.0.9/24")],
            routes: [{ to: "0.0.0.0/0", via: "10.1.0.1" }],
          },
          {
            id: "edge",
            role: "router",
            interfaces: [
              port("lan", "10.1.0.1/24"),
              port("a", "198.51.100.2/30"),
              port("b", "198.51.100.6/30"),
            ],
            routes: [
              { to: "0.0.0.0/0", via: "198.51.100.1" },
              { to: "0.0.0.0/0", via: "198.51.100.5", distance: 50 },
            ],
          },
          isp("a", 1),
          isp("b", 5),
          {
            id: "net",
            role: "internet",
            interfaces: [port("a", "203.0.113.2/30"), port("b", "203.0.113.6/30")],
          },
        ],
        links: [
          { id: "l", ends: ["pc/e", "edge/lan"] },
          { id: "ea", ends: ["edge/a", "a/c"] },
          { id: "eb", ends: ["edge/b", "b/c"] },
          { id: "wa", ends: ["a/w", "net/a"] },
          { id: "wb", ends: ["b/w", "net/b"] },
        ],
        flows: [{ id: "f", from: "pc", to: "192.0.2.80" }],
      },
      "untranslated-source",
    );
    expect(finding.fixes.map(({ label }) => label)).toEqual(["Translate 10.1.0.0/24 on a and b of edge"]);
  });
});
