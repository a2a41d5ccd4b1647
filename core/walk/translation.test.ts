import { describe, expect, it } from "vitest";
import { engineOf, planOf, tripOf, worldWith } from "../../tests/support/plans.ts";
import { formatAddress } from "../address/index.ts";
import { readPlan } from "../plan/index.ts";
import type { Walk } from "./index.ts";

/** A firewall with a server and a desk inside and a client outside; the server is offered by the outside address. */
function behindWall(more: Record<string, unknown> = {}, profile: Record<string, unknown> = {}) {
  return planOf({
    profiles: [{ id: "wall", base: "zone-firewall", ...profile }],
    devices: [
      {
        id: "wall",
        role: "firewall",
        profile: "wall",
        interfaces: [
          { name: "lan", addresses: ["10.1.0.1/24"], zone: "inside" },
          { name: "wan", addresses: ["192.0.2.1/24"], zone: "outside" },
        ],
        destNat: [
          {
            in: ["wan", "lan"],
            to: "192.0.2.1",
            protocol: "tcp",
            port: 443,
            via: "10.1.0.20",
            viaPort: 8443,
          },
          { in: "wan", to: "192.0.2.9", via: "10.1.0.20" },
        ],
        policy: { default: "deny", rules: [{ action: "allow", protocol: "tcp", port: "8443" }] },
        ...more,
      },
      ...[20, 30].map((n) => ({
        id: n === 20 ? "server" : "desk",
        role: "host",
        interfaces: [{ name: "e", addresses: [`10.1.0.${n}/24`] }],
        routes: [{ to: "0.0.0.0/0", via: "10.1.0.1" }],
      })),
      {
        id: "client",
        role: "host",
        interfaces: [{ name: "e", addresses: ["192.0.2.50/24"] }],
      },
    ],
    links: [
      { id: "lan", medium: "switch", ends: ["wall/lan", "server/e", "desk/e"] },
      { id: "wan", ends: ["wall/wan", "client/e"] },
    ],
  });
}

function ask(
  plan: ReturnType<typeof planOf>,
  from: string,
  to: string,
  port = 443,
  protocol = "tcp" as const,
) {
  const trip = tripOf(worldWith(engineOf(plan)), from, to, { protocol, port });
  const { outbound, reply } = trip.worst;
  const end = (walk: Walk | null) => walk?.packet && plan.devices[walk.hops[walk.hops.length - 1].device].id;
  return {
    verdict: trip.verdict,
    at: end(outbound),
    port: outbound.packet?.port,
    drop: (outbound.drop ?? reply?.drop)?.code ?? null,
    answeredFrom: reply?.packet ? formatAddress(reply.packet.source) : null,
  };
}

describe("rule 6.9: destination translation", () => {
  it("leads a new packet to the server and its port, and the answer comes from where it was sent to", () => {
    expect(ask(behindWall(), "client", "192.0.2.1")).toEqual({
      verdict: "works",
      at: "server",
      port: 8443,
      drop: null,
      answeredFrom: "192.0.2.1",
    });
  });

  it("leaves other ports to the device itself", () => {
    expect(ask(behindWall(), "client", "192.0.2.1", 22)).toMatchObject({ at: "wall", port: 22 });
  });

  it("lets the policy see the new destination, or that before translation, by the profile", () => {
    const old = { policy: { default: "deny", rules: [{ action: "allow", destination: ["192.0.2.1/32"] }] } };
    expect(ask(behindWall(old), "client", "192.0.2.1")).toMatchObject({ drop: "policy-denied" });
    expect(ask(behindWall(old, { policyDestination: "original" }), "client", "192.0.2.1")).toMatchObject({
      verdict: "works",
    });
  });

  it("answers ARP for an address that is translated, on the interface that is named", () => {
    const open = { policy: { default: "allow" } };
    expect(ask(behindWall(open), "client", "192.0.2.9")).toMatchObject({ verdict: "works", at: "server" });
    expect(ask(behindWall({ ...open, destNat: [] }), "client", "192.0.2.9")).toMatchObject({
      drop: "host-not-listening",
    });
  });

  it("fails from inside without source translation: the answer comes from another address", () => {
    expect(ask(behindWall(), "desk", "192.0.2.1")).toMatchObject({ verdict: "one-way", drop: "no-state" });
    const hairpin = { sourceNat: [{ out: "lan", from: ["10.1.0.0/24"], to: "interface" }] };
    expect(ask(behindWall(hairpin), "desk", "192.0.2.1")).toMatchObject({
      verdict: "works",
      at: "server",
      answeredFrom: "192.0.2.1",
    });
  });
});

describe("rule 6.10: marks and tables", () => {
  const steered = (more: Record<string, unknown>) =>
    planOf({
      devices: [
        {
          id: "desk",
          role: "host",
          interfaces: [{ name: "e", addresses: ["10.1.0.10/24"] }],
          routes: [{ to: "0.0.0.0/0", via: "10.1.0.1" }],
        },
        {
          id: "r",
          role: "router",
          interfaces: [
            { name: "lan", addresses: ["10.1.0.1/24"] },
            { name: "a", addresses: ["10.2.0.1/24"] },
            { name: "b", addresses: ["10.3.0.1/24"] },
          ],
          routes: [{ to: "0.0.0.0/0", via: "10.2.0.2" }],
          ...more,
        },
        ...["a", "b"].map((id, n) => ({
          id,
          role: "router",
          interfaces: [
            { name: "r", addresses: [`10.${n + 2}.0.2/24`] },
            { name: "s", addresses: [`10.${n + 4}.0.1/24`] },
          ],
          routes: [
            { to: "10.1.0.0/24", via: `10.${n + 2}.0.1` },
            { to: "10.9.0.0/24", via: `10.${n + 4}.0.9` },
          ],
        })),
        {
          id: "server",
          role: "host",
          interfaces: [
            { name: "a", addresses: ["10.4.0.9/24", "10.9.0.9/24"] },
            { name: "b", addresses: ["10.5.0.9/24"] },
          ],
          routes: [{ to: "0.0.0.0/0", via: "10.4.0.1" }],
        },
      ],
      links: [
        { id: "lan", ends: ["desk/e", "r/lan"] },
        { id: "ra", ends: ["r/a", "a/r"] },
        { id: "rb", ends: ["r/b", "b/r"] },
        { id: "as", ends: ["a/s", "server/a"] },
        { id: "bs", ends: ["b/s", "server/b"] },
      ],
    });
  const table = (match: Record<string, unknown>) => ({
    name: "t",
    match,
    lookup: "first",
    routes: [{ to: "0.0.0.0/0", via: "10.3.0.2" }],
  });
  const goesBy = (more: Record<string, unknown>, protocol: "tcp" | "udp", port?: number, from = "desk") => {
    const plan = steered(more);
    const trip = tripOf(worldWith(engineOf(plan)), from, "10.9.0.9", { protocol, ...(port ? { port } : {}) });
    const ids = trip.worst.outbound.hops.map(({ device }) => plan.devices[device].id);
    return ids[ids.indexOf("r") + 1];
  };

  it("asks a table by destination, protocol and port, all of them", () => {
    const tables = { policyTables: [table({ to: ["10.9.0.0/24"], protocol: "udp", port: "5060-5061" })] };
    expect(goesBy(tables, "udp", 5060)).toBe("b");
    expect(goesBy(tables, "udp", 5062)).toBe("a");
    expect(goesBy(tables, "tcp", 5060)).toBe("a");
    expect(goesBy({ policyTables: [table({ to: ["10.8.0.0/24"] })] }, "udp", 5060)).toBe("a");
  });

  it("keeps the mark of the last rule that matches, and gives a device's own packets none by `in`", () => {
    const policyTables = [table({ mark: 7 })];
    const both = [
      { set: 7, in: ["lan"] },
      { set: 8, protocol: "tcp", port: "22" },
    ];
    expect(goesBy({ policyTables, marks: both }, "tcp", 443)).toBe("b");
    expect(goesBy({ policyTables, marks: both }, "tcp", 22)).toBe("a");
    expect(goesBy({ policyTables, marks: both }, "tcp", 443, "r")).toBe("a");
    expect(goesBy({ policyTables, marks: [{ set: 7, in: [] }] }, "tcp", 443, "r")).toBe("b");
  });
});

describe("what does not fit together is refused", () => {
  const errorsOf = (device: Record<string, unknown>) => {
    const reading = readPlan({
      ironFork: 1,
      name: "x",
      devices: [
        { id: "r", role: "router", interfaces: [{ name: "lan", addresses: ["10.1.0.1/24"] }], ...device },
      ],
    });
    return reading.ok ? [] : reading.errors.map(({ path, message }) => `${path}: ${message}`);
  };
  it.each([
    [{ destNat: [{ in: "wan", to: "192.0.2.1", via: "10.1.0.9" }] }, "devices[0].destNat[0].in"],
    [{ destNat: [{ in: "lan", to: "192.0.2.1", via: "10.1.0.9", port: 443 }] }, "devices[0].destNat[0].port"],
    [{ destNat: [{ in: "lan", to: "192.0.2.1", via: "2001:db8::1" }] }, "devices[0].destNat[0].via"],
    [{ marks: [{ set: 7, in: ["wan"] }] }, "devices[0].marks[0].in[0]"],
    [{ marks: [{ set: 0 }] }, "devices[0].marks[0].set"],
    [{ policyTables: [{ name: "t", match: {}, lookup: "first" }] }, "devices[0].policyTables[0].match"],
    [
      { policyTables: [{ name: "t", match: { port: "80" }, lookup: "first" }] },
      "devices[0].policyTables[0].match.port",
    ],
  ])("%o", (device, place) => {
    expect(errorsOf(device).join("; ")).toContain(`${place}: `);
  });
});
