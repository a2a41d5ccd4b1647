import { describe, expect, it } from "vitest";
import { NetworkModel } from "../../core/scenario/index.ts";
import { tripOf } from "../../tests/support/plans.ts";
import { readFiles } from "../readings.ts";
import { writeFiles } from "../writers/index.ts";
import { rebuildPlan } from "./plan.ts";

const up = ["BROADCAST", "UP", "LOWER_UP"];

/** What `ip -j -d addr` says of a device with a bond of two and a VLAN on it. */
function addressesOf(n: number, bond: object = {}) {
  const port = (ifname: string) => ({ ifname, flags: up, link_type: "ether", master: "bond0" });
  return JSON.stringify([
    port("port1"),
    port("port2"),
    { ifname: "bond0", flags: up, link_type: "ether", linkinfo: { info_kind: "bond", info_data: bond } },
    {
      ifname: "bond0.20",
      link: "bond0",
      flags: up,
      link_type: "ether",
      linkinfo: { info_kind: "vlan", info_data: { id: 20 } },
      addr_info: [{ local: `192.0.2.${n}`, prefixlen: 30 }],
    },
  ]);
}

describe("bundles and tagged interfaces that devices tell of (rule 15)", () => {
  const outcome = rebuildPlan(
    readFiles([
      { name: "left/address.json", text: addressesOf(1) },
      { name: "right/address.json", text: addressesOf(2) },
    ]),
    "read",
  );
  if (!outcome.ok) throw new Error(outcome.errors.map(({ message }) => message).join("; "));
  const { plan } = outcome.rebuilt;

  it("are in the plan as they are built", () => {
    const left = plan.devices.find(({ id }) => id === "left");
    expect(left?.interfaces.find(({ name }) => name === "bond0")).toMatchObject({
      kind: "bundle",
      members: ["port1", "port2"],
    });
    expect(left?.interfaces.find(({ name }) => name === "bond0.20")).toMatchObject({
      parent: "bond0",
      vlan: 20,
      addresses: ["192.0.2.1/30"],
    });
  });

  it.each([
    [
      { mode: "802.3ad", min_links: 2, ad_lacp_rate: "fast" },
      { minUp: 2, lacp: "fast" },
    ],
    [{ mode: "802.3ad", min_links: 0, ad_lacp_rate: "slow" }, { lacp: "slow" }],
    [
      { mode: "802.3ad", min_links: 9 },
      { minUp: 2, lacp: "slow" },
    ],
    [{ mode: "active-backup" }, { lacp: "off" }],
    [{}, {}],
  ])("assure their ends and need ports as %o says", (bond, wanted) => {
    const files = [{ name: "left/address.json", text: addressesOf(1, bond) }];
    const read = rebuildPlan(readFiles(files), "read");
    if (!read.ok) throw new Error(read.errors[0].message);
    const port = read.rebuilt.plan.devices[0].interfaces.find(({ name }) => name === "bond0");
    expect([port?.minUp, port?.lacp]).toEqual([
      "minUp" in wanted ? wanted.minUp : undefined,
      "lacp" in wanted ? wanted.lacp : undefined,
    ]);
  });

  it("do so in text as in JSON", () => {
    const text = [
      "2: port1: <BROADCAST,MULTICAST,SLAVE,UP,LOWER_UP> mtu 1500 master bond0 state UP group default",
      "    link/ether 52:54:00:00:00:01 brd ff:ff:ff:ff:ff:ff",
      "3: port2: <BROADCAST,MULTICAST,SLAVE,UP,LOWER_UP> mtu 1500 master bond0 state UP group default",
      "    link/ether 52:54:00:00:00:02 brd ff:ff:ff:ff:ff:ff",
      "4: bond0: <BROADCAST,MULTICAST,MASTER,UP,LOWER_UP> mtu 1500 state UP group default",
      "    link/ether 52:54:00:00:00:01 brd ff:ff:ff:ff:ff:ff",
      "    bond mode 802.3ad miimon 100 updelay 0 min_links 2 lp_interval 1 lacp_active on lacp_rate fast ad_select stable",
      "    inet 192.0.2.1/30 scope global bond0",
    ].join("\n");
    const read = rebuildPlan(readFiles([{ name: "left.txt", text }]), "read");
    if (!read.ok) throw new Error(read.errors[0].message);
    expect(read.rebuilt.plan.devices[0].interfaces.find(({ name }) => name === "bond0")).toMatchObject({
      ...{ kind: "bundle", members: ["port1", "port2"], minUp: 2, lacp: "fast" },
    });
  });

  it("reach each other over what they are made of", () => {
    const model = NetworkModel.compile(plan);
    expect(tripOf(model.world, "left", "192.0.2.2").verdict).toBe("works");
    const without = model.under(["interface:left/port1", "interface:left/port2"]);
    expect(tripOf(without.world, "left", "192.0.2.2").verdict).toBe("fails");
    expect(tripOf(model.under(["interface:left/port1"]).world, "left", "192.0.2.2").verdict).toBe("works");
  });

  it("are told as not written where a form has no words for them", () => {
    const [file] = writeFiles(plan, "iproute2", "left");
    expect(file.text).toContain("# not written: bond0 as a bundle of port1, port2");
    expect(file.text).toContain("# not written: bond0.20 as VLAN 20 of bond0");
  });
});
