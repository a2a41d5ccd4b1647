import { describe, expect, it } from "vitest";
import { readFiles } from "../../readings.ts";
import { rebuildPlan } from "../../rebuild/plan.ts";

const read = (text: string, name = "edge.txt") => {
  const readings = readFiles([{ name, text }]);
  const outcome = rebuildPlan(readings, "read");
  if (!outcome.ok) throw new Error(outcome.errors.map(({ message }) => message).join("; "));
  const fates = readings.devices.flatMap((device) => device.fates);
  return {
    device: outcome.rebuilt.plan.devices[0],
    plan: outcome.rebuilt.plan,
    doubtful: fates.filter(({ fate }) => fate === "doubtful").map(({ text: line, detail }) => [line, detail]),
    fates,
  };
};

describe("what a kernel's tools print is taken, or told as not taken", () => {
  it("a throw route and a next hop of the other family are told", () => {
    const { device, doubtful } = read(
      "throw 10.5.0.0/16 table 7\n10.0.0.0/24 dev eth0 proto kernel scope link src 10.0.0.9\n" +
        "10.6.0.0/16 via inet6 fe80::1 dev eth0\n10.7.0.0/16 via 10.0.0.1 dev eth0\n",
    );
    expect(device.routes.map(({ to }) => to)).toEqual(["10.7.0.0/16"]);
    expect(doubtful).toEqual([
      [
        "throw 10.5.0.0/16 table 7",
        "a throw route, which continues with the next rule: a plan cannot express it",
      ],
      [
        "10.6.0.0/16 via inet6 fe80::1 dev eth0",
        "a route to 10.6.0.0/16 by a next hop of the other address family, which a plan cannot express",
      ],
    ]);
  });

  it("weights are taken, in text and in JSON", () => {
    const text = `10.0.0.0/24 dev eth0 proto kernel scope link src 10.0.0.9
default proto static
	nexthop via 10.0.0.1 dev eth0 weight 3
	nexthop via 10.0.0.2 dev eth0 weight 1
`;
    const json = JSON.stringify([
      { dst: "10.0.0.0/24", dev: "eth0", protocol: "kernel", scope: "link", prefsrc: "10.0.0.9", flags: [] },
      {
        dst: "default",
        protocol: "static",
        flags: [],
        nexthops: [
          { gateway: "10.0.0.1", dev: "eth0", weight: 3, flags: [] },
          { gateway: "10.0.0.2", dev: "eth0", weight: 1, flags: [] },
        ],
      },
    ]);
    for (const [body, name] of [
      [text, "edge.txt"],
      [json, "edge/route.json"],
    ]) {
      const { device } = read(body, name);
      expect(device.routes.map(({ via, weight }) => [via, weight])).toEqual([
        ["10.0.0.1", 3],
        ["10.0.0.2", undefined],
      ]);
    }
  });

  it("the source of a connected route is the device's own address; one that nobody tells is marked as assumed", () => {
    const { device } = read(
      "default via 10.0.0.1 dev eth0 src 10.5.0.9\n10.0.0.0/24 dev eth0 proto kernel scope link src 10.0.0.9\n" +
        "10.8.0.0/24 dev eth1 proto kernel scope link src 10.5.0.9\n",
    );
    const [first, second] = device.interfaces;
    expect([first.addresses, first.note]).toEqual([["10.0.0.9/24"], undefined]);
    expect(second.addresses).toEqual(["10.8.0.1/24"]);
    expect(second.note).toBe("10.8.0.1/24 is assumed: the text tells only the subnet 10.8.0.0/24");
  });

  const links = `2: eth0: <BROADCAST,MULTICAST,UP,LOWER_UP> mtu 1500 qdisc noqueue state UP group default qlen 1000
    link/ether 00:00:5e:00:53:01 brd ff:ff:ff:ff:ff:ff
    inet 10.0.0.9/24 scope global eth0
       valid_lft forever preferred_lft forever
`;
  const routes = `default via 10.0.0.1 dev eth0 proto static
10.9.0.0/16 proto static
	nexthop via 10.0.0.2 dev eth0
	nexthop via 10.0.0.3 dev eth0
`;
  it.each([
    ["addresses, then routes", `${links}${routes}`],
    ["routes, then addresses", `${routes}${links}`],
    ["with a blank line between", `${links}\n${routes}`],
  ])("both in one text are read: %s", (_, text) => {
    const { device, fates } = read(text);
    expect(device.interfaces.map(({ name, addresses }) => [name, addresses])).toEqual([
      ["eth0", ["10.0.0.9/24"]],
    ]);
    expect(device.routes.map(({ to, via }) => `${to} ${via}`).sort()).toEqual([
      "0.0.0.0/0 10.0.0.1",
      "10.9.0.0/16 10.0.0.2",
      "10.9.0.0/16 10.0.0.3",
    ]);
    expect(fates.filter(({ fate }) => fate === "not-understood")).toEqual([]);
  });

  it("destination translation is taken, in text and in JSON", () => {
    const text = `table ip nat {
	chain pre {
		type nat hook prerouting priority dstnat; policy accept;
		iifname "wan" ip daddr 192.0.2.9 tcp dport 443 dnat to 10.0.0.20:8443
		iifname { "wan", "lan" } ip daddr 192.0.2.8 dnat to 10.0.0.21
		ip daddr 192.0.2.7 dnat to 10.0.0.22
		iifname "wan" ip saddr 203.0.113.0/24 ip daddr 192.0.2.6 dnat to 10.0.0.23
	}
}
`;
    const { plan, doubtful } = readWith(text, "edge/rules.nft");
    expect(plan.devices[0].destNat).toEqual([
      { in: ["wan"], to: "192.0.2.9", protocol: "tcp", port: 443, via: "10.0.0.20", viaPort: 8443 },
      { in: ["wan", "lan"], to: "192.0.2.8", via: "10.0.0.21" },
    ]);
    expect(doubtful.map(([, detail]) => detail)).toEqual([
      "a destination translation, but it has no incoming interface",
      "a destination translation, but it translates only some packets by a condition that a plan cannot express",
    ]);
    const match = (left: object, right: unknown) => ({ match: { op: "==", left, right } });
    const json = JSON.stringify({
      nftables: [
        {
          rule: {
            ...{ family: "ip", table: "nat", chain: "pre" },
            expr: [
              match({ meta: { key: "iifname" } }, "wan"),
              match({ payload: { protocol: "ip", field: "daddr" } }, "192.0.2.9"),
              match({ payload: { protocol: "tcp", field: "dport" } }, 443),
              { dnat: { addr: "10.0.0.20", port: 8443 } },
            ],
          },
        },
      ],
    });
    expect(readWith(json, "edge/rules.json").plan.devices[0].destNat).toEqual([
      { in: ["wan"], to: "192.0.2.9", protocol: "tcp", port: 443, via: "10.0.0.20", viaPort: 8443 },
    ]);
  });

  it("a return-path check is told", () => {
    const { devices } = readFiles([
      { name: "edge/sysctl.txt", text: "net.ipv4.ip_forward = 1\nnet.ipv4.conf.all.rp_filter = 1\n" },
    ]);
    expect(devices[0].fates.map(({ fate, detail }) => [fate, detail])).toEqual([
      ["taken", "IPv4 forwarding is on"],
      ["doubtful", "a strict return-path check on all: give the device a profile with `returnPath: strict`"],
    ]);
  });
});

/** A ruleset beside the interfaces that it names. */
function readWith(text: string, name: string) {
  const addresses = ["wan", "lan"]
    .map(
      (port, n) =>
        `${n + 2}: ${port}: <UP,LOWER_UP> mtu 1500\n    inet 10.0.${n}.1/24 scope global ${port}\n`,
    )
    .join("");
  const readings = readFiles([
    { name: "edge/address.txt", text: addresses },
    { name, text },
  ]);
  const outcome = rebuildPlan(readings, "read");
  if (!outcome.ok) throw new Error(outcome.errors.map(({ message }) => message).join("; "));
  const fates = readings.devices.flatMap((device) => device.fates);
  return {
    plan: outcome.rebuilt.plan,
    doubtful: fates.filter(({ fate }) => fate === "doubtful").map(({ text: line, detail }) => [line, detail]),
  };
}
