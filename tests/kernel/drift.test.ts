import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { describe, expect, it } from "vitest";
import { applyEdit, type Plan } from "../../core/plan/index.ts";
import { NetworkModel } from "../../core/scenario/index.ts";
import { driftOf } from "../../exchange/drift.ts";
import { editOfDrift } from "../../exchange/drift-edit.ts";
import type { DeviceFacts } from "../../exchange/facts/index.ts";
import { readFiles } from "../../exchange/readings.ts";
import { rebuildPlan } from "../../exchange/rebuild/plan.ts";
import { nftablesFiles } from "../../exchange/writers/nftables.ts";
import { canBuild, Lab } from "../../lab/lab.ts";
import { freeNet, MANAGEMENT, Management, missingServers } from "../../lab/management.ts";
import { run } from "../../lab/shell.ts";
import { planOf } from "../support/plans.ts";
import { readConfirmed } from "../support/read-confirmed.ts";
import { kernelPlan } from "./plans.ts";

const able = canBuild() && missingServers().length === 0;

describe.skipIf(!able)("a lab device that somebody changes by hand", () => {
  it("shows it as drift within one reading; taken into the plan, nothing differs any more", async () => {
    const folder = mkdtempSync(`${tmpdir()}/iron-fork-lab-`);
    const written = kernelPlan(5);
    const lab = new Lab(written, `if${process.pid % 10000}drift`);
    const router = written.devices.find(
      ({ role, routes }) => role === "router" && routes.some(({ via }) => via),
    );
    const via = router?.routes.find((route) => route.via)?.via ?? "";
    const id = router?.id ?? "";
    const management = new Management(lab, [id], folder, freeNet(384));
    const ask = async () => {
      const target = {
        device: id,
        address: management.address(id),
        port: 22,
        way: "ssh" as const,
        proof: null,
      };
      const secret = { way: "ssh" as const, user: "root", key: management.key, password: "" };
      return (await readConfirmed(target, secret, { allowed: [MANAGEMENT] })).collector;
    };
    const read = async () => (await ask()).facts;
    const compare = (plan: Plan, facts: DeviceFacts) =>
      driftOf(NetworkModel.compile(plan), [facts]).differences;
    try {
      lab.build();
      await management.start({ snmp: false, ssh: true, neighbours: false });
      // The plan matches the readings initially; this one comes from a live answer.
      const others = readFiles(
        written.devices.filter((d) => d.id !== id).flatMap((d) => lab.collected(d.id)),
      );
      const made = rebuildPlan({ ...others, devices: [...others.devices, await ask()] }, "read");
      if (!made.ok) throw new Error(made.errors[0].message);
      const { plan } = made.rebuilt;
      expect(compare(plan, await read())).toEqual([]);

      run("ip", ["-n", lab.namespace(id), "route", "add", "10.250.0.0/16", "via", via, "metric", "7"]);
      const facts = await read();
      const differences = compare(plan, facts);
      expect(differences).toMatchObject([{ device: id, kind: "route-extra", subject: "10.250.0.0/16" }]);
      const taken = editOfDrift(plan, [facts], differences);
      if (!taken.ok) throw new Error(taken.why);
      const outcome = applyEdit(plan, taken.edit);
      if (!outcome.ok) throw new Error(outcome.errors[0].message);
      expect(outcome.plan.devices.find((d) => d.id === id)?.routes).toContainEqual({
        to: "10.250.0.0/16",
        via,
        metric: 7,
        ...(facts.routes.find(({ to }) => to === "10.250.0.0/16")?.out
          ? { out: facts.routes.find(({ to }) => to === "10.250.0.0/16")?.out }
          : {}),
      });
      expect(compare(outcome.plan, await read())).toEqual([]);
    } finally {
      management.stop();
      lab.remove();
      rmSync(folder, { recursive: true, force: true });
    }
  }, 60_000);
});

describe.skipIf(!able)("nftables' own output", () => {
  it.each([["-j"], []])("tells source translation, as the kernel holds it %s", (...options) => {
    const namespace = `if${process.pid % 10000}nft`;
    run("ip", ["netns", "add", namespace]);
    try {
      const nft = (...args: string[]) => run("ip", ["netns", "exec", namespace, "nft", ...args]).stdout;
      nft("add", "table", "ip", "nat");
      nft("add", "chain", "ip", "nat", "out", "{ type nat hook postrouting priority 100 ; }");
      nft("add", "rule", "ip", "nat", "out", "oifname", "wan1", "ip", "saddr", "10.0.0.0/8", "masquerade");
      nft(
        "add",
        "rule",
        "ip",
        "nat",
        "out",
        "oifname",
        "wan2",
        "ip",
        "saddr",
        "10.0.0.0/8",
        "snat",
        "to",
        "192.0.2.7",
      );
      const text = nft(...options, "list", "ruleset");
      const { devices, lines } = readFiles([
        { name: `edge/ruleset${options.length ? ".json" : ".txt"}`, text },
      ]);
      expect(devices[0].facts.translations).toEqual([
        { out: "wan1", from: ["10.0.0.0/8"], to: "interface" },
        { out: "wan2", from: ["10.0.0.0/8"], to: "192.0.2.7" },
      ]);
      expect(lines.filter(({ fate }) => fate === "not-understood")).toEqual([]);
    } finally {
      run("ip", ["netns", "del", namespace]);
    }
  });
});

describe.skipIf(!able)("the file for nft of a device, on a kernel", () => {
  const translating = planOf({
    devices: [
      {
        id: "r",
        role: "router",
        interfaces: [
          { name: "lan", addresses: ["10.0.0.1/24", "2001:db8:1::1/64"] },
          { name: "wan1", addresses: ["192.0.2.1/30", "2001:db8:9::1/64"] },
        ],
        sourceNat: [
          { out: "wan1", from: ["10.0.0.0/8"], to: "interface" },
          { out: "wan1", from: ["2001:db8:1::/64"], to: "2001:db8:9::1" },
        ],
        destNat: [
          {
            in: ["wan1", "lan"],
            to: "192.0.2.1",
            protocol: "tcp",
            port: 443,
            via: "10.0.0.9",
            viaPort: 8443,
          },
          { in: "wan1", to: "2001:db8:9::1", protocol: "udp", port: 53, via: "2001:db8:1::9" },
        ],
        marks: [
          { set: 7, in: ["lan"], to: ["203.0.113.0/24"], protocol: "udp", port: "5060-5061" },
          { set: 9, protocol: "icmp" },
          { set: 11, from: ["10.0.0.0/8", "2001:db8:1::/64"], to: ["203.0.113.9/32", "2001:db8:7::/48"] },
        ],
      },
    ],
    links: [],
  });

  it("loads, twice, and says again what the plan says", () => {
    const namespace = `if${process.pid % 10000}nfw`;
    const [file] = nftablesFiles(translating.devices);
    run("ip", ["netns", "add", namespace]);
    try {
      const nft = (...args: string[]) => run("ip", ["netns", "exec", namespace, "nft", ...args]).stdout;
      const folder = mkdtempSync(`${tmpdir()}/iron-fork-nft-`);
      writeFileSync(`${folder}/${file.name}`, file.text);
      for (let n = 0; n < 2; n++) nft("-f", `${folder}/${file.name}`);
      rmSync(folder, { recursive: true });
      const interfaces = JSON.stringify(
        translating.devices[0].interfaces.map(({ name }) => ({
          ifname: name,
          link_type: "ether",
          flags: ["UP"],
        })),
      );
      const steering = ({ sourceNat, destNat, marks }: Plan["devices"][number]) => ({
        ...{ sourceNat, marks },
        destNat: destNat?.map((one) => ({ ...one, in: [one.in].flat().sort() })),
      });
      for (const text of [nft("-j", "list", "ruleset"), nft("list", "ruleset"), file.text]) {
        const readings = readFiles([
          { name: "r/ruleset.txt", text },
          { name: "r/interfaces.json", text: interfaces },
        ]);
        const found = rebuildPlan(readings, "read");
        expect(found.ok && steering(found.rebuilt.plan.devices[0])).toEqual(steering(translating.devices[0]));
        expect(readings.lines.filter(({ fate }) => fate === "doubtful" || fate === "not-understood")).toEqual(
          [],
        );
      }
    } finally {
      run("ip", ["netns", "del", namespace]);
    }
  });
});
