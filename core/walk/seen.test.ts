import { describe, expect, it } from "vitest";
import { engineOf, planOf, tripOf, worldWith } from "../../tests/support/plans.ts";
import { formatAddress } from "../address/index.ts";
import { traceViewOf } from "./index.ts";

/** a host, three routers in a row and a host; the middle one as given. */
function row(middle: Record<string, unknown> = {}, profiles: Record<string, unknown>[] = []) {
  const router = (n: number, more: Record<string, unknown> = {}) => ({
    id: `r${n}`,
    role: "router",
    interfaces: [
      { name: "left", addresses: [`10.0.${n}.2/24`, `2001:db8:${n}::2/64`] },
      { name: "right", addresses: [`10.0.${n + 1}.1/24`, `2001:db8:${n + 1}::1/64`] },
    ],
    routes: [
      { to: "10.0.0.0/16", via: `10.0.${n + 1}.2` },
      ...Array.from({ length: n }, (_, k) => ({ to: `10.0.${k}.0/24`, via: `10.0.${n}.1` })),
      { to: "2001:db8::/32", via: `2001:db8:${n + 1}::2` },
      ...Array.from({ length: n }, (_, k) => ({ to: `2001:db8:${k}::/64`, via: `2001:db8:${n}::1` })),
    ],
    ...more,
  });
  const host = (id: string, net: number, end: number, gateway: number) => ({
    id,
    role: "host",
    interfaces: [{ name: "e", addresses: [`10.0.${net}.${end}/24`, `2001:db8:${net}::${end}/64`] }],
    routes: [
      { to: "0.0.0.0/0", via: `10.0.${net}.${gateway}` },
      { to: "::/0", via: `2001:db8:${net}::${gateway}` },
    ],
  });
  return planOf({
    profiles,
    devices: [{ ...host("a", 1, 1, 2) }, router(1), router(2, middle), router(3), { ...host("b", 4, 2, 1) }],
    links: [
      { id: "a", ends: ["a/e", "r1/left"] },
      { id: "m", ends: ["r1/right", "r2/left"] },
      { id: "n", ends: ["r2/right", "r3/left"] },
      { id: "b", ends: ["r3/right", "b/e"] },
    ],
  });
}

function seen(plan: ReturnType<typeof planOf>, to: string, ...failed: string[]) {
  const world = worldWith(engineOf(plan), ...failed);
  const { hops, message } = traceViewOf(world, tripOf(world, "a", to).worst);
  return {
    hops: hops.map((address) => address && formatAddress(address)),
    message: message && `${message.type}/${message.code} from ${formatAddress(message.from)}`,
  };
}

describe("rule 6.11: what the sender sees", () => {
  it("answers from the way in, and the receiver last; IPv6 from the way back", () => {
    expect(seen(row(), "10.0.4.2")).toEqual({
      hops: ["10.0.1.2", "10.0.2.2", "10.0.3.2", "10.0.4.2"],
      message: null,
    });
    expect(seen(row(), "2001:db8:4::2").hops).toEqual([
      "2001:db8:1::2",
      "2001:db8:2::2",
      "2001:db8:3::2",
      "2001:db8:4::2",
    ]);
  });

  it("takes as long as the links there and back", () => {
    const plan = row();
    const links = plan.links.map((link, n) => ({ ...link, delayMs: [1, 10, 100, 0][n] }));
    const world = worldWith(engineOf({ ...plan, links }));
    expect(traceViewOf(world, tripOf(world, "a", "10.0.4.2").worst).rttMs).toEqual([2, 22, 222, 222]);
  });

  it("leaves out what takes nothing from the hop limit", () => {
    const profiles = [{ id: "clear", base: "classic-router", decrements: false }];
    expect(seen(row({ profile: "clear" }, profiles), "10.0.4.2").hops).toEqual([
      "10.0.1.2",
      "10.0.3.2",
      "10.0.4.2",
    ]);
  });

  it("says who dropped a packet and why, where a device says so", () => {
    expect(seen(row(), "10.0.4.9")).toEqual({
      hops: ["10.0.1.2", "10.0.2.2", "10.0.3.2"],
      message: "3/1 from 10.0.3.2",
    });
    expect(seen(row(), "2001:db8:4::9").message).toBe("1/3 from 2001:db8:3::2");
    const back = { to: "10.0.1.0/24", via: "10.0.2.1" };
    expect(seen(row({ routes: [back] }), "10.0.4.2")).toEqual({
      hops: ["10.0.1.2", "10.0.2.2"],
      message: "3/0 from 10.0.2.2",
    });
    const reject = { to: "10.0.4.0/24", discard: "reject" };
    expect(seen(row({ routes: [back, reject] }), "10.0.4.2").message).toBe("3/1 from 10.0.2.2");
  });

  it("sees nothing of a discard route, and of a device that the policy lets answer before it drops", () => {
    const back = { to: "10.0.1.0/24", via: "10.0.2.1" };
    expect(seen(row({ routes: [back, { to: "10.0.4.0/24", discard: "drop" }] }), "10.0.4.2")).toEqual({
      hops: ["10.0.1.2", null],
      message: null,
    });
    const policy = { default: "deny", sameZone: "deny", rules: [] };
    expect(seen(row({ policy }), "10.0.4.2")).toEqual({ hops: ["10.0.1.2", "10.0.2.2"], message: null });
  });

  it("sees nothing of a device whose error has no way back", () => {
    const routes = [{ to: "10.0.0.0/16", via: "10.0.3.2" }];
    expect(seen(row({ routes }), "10.0.4.2").hops.slice(0, 2)).toEqual(["10.0.1.2", null]);
  });

  it("goes round a circle once, and the hop limit ends it", () => {
    const routes = [{ to: "10.0.0.0/16", via: "10.0.2.1" }];
    expect(seen(row({ routes }), "10.0.4.2")).toEqual({
      hops: ["10.0.1.2", "10.0.2.2", "10.0.2.1"],
      message: "11/0 from 10.0.2.2",
    });
  });
});
