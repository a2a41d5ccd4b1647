import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { describe, expect, it } from "vitest";
import type { Plan } from "../../core/plan/index.ts";
import type { Readings } from "../../exchange/readings.ts";
import { canBuild, Lab } from "../../lab/lab.ts";
import { freeNet, MANAGEMENT, Management, missingServers, PORT, words } from "../../lab/management.ts";
import { readDevice } from "../../live/read.ts";
import type { Secret } from "../../live/target.ts";
import { until } from "../support/until.ts";
import { kernelPlan } from "./plans.ts";
import { expectReadAlike, pingsOf } from "./read-alike.ts";

const able = canBuild() && missingServers().length === 0;
if (!able)
  console.warn(
    "Live reading of kernels is skipped: it needs root, iproute2, snmpd, lldpd and openssh-server.",
  );

let next = 256;

/** Builds a plan with servers in its devices, and takes all of it down again. */
async function inLab(plan: Plan, name: string, use: (lab: Lab, management: Management) => Promise<void>) {
  const folder = mkdtempSync(`${tmpdir()}/iron-fork-lab-`);
  const lab = new Lab(plan, `if${process.pid % 10000}l${name}`);
  const net = freeNet(next);
  next = net + 1;
  const management = new Management(
    lab,
    plan.devices.map(({ id }) => id),
    folder,
    net,
  );
  try {
    lab.build();
    await management.start({ snmp: true, ssh: true, neighbours: true });
    await use(lab, management);
  } finally {
    management.stop();
    lab.remove();
    rmSync(folder, { recursive: true, force: true });
  }
}

const secrets = (management: Management): Secret[] => [
  { way: "snmp-v2c", community: words.community },
  {
    way: "snmp-v3",
    user: words.user,
    auth: "sha256",
    authWord: words.authWord,
    privacyWord: words.privacyWord,
  },
  { way: "ssh", user: "root", key: management.key, password: "" },
];

/** A plan without what this agent leaves out of its tables: routes of IPv6 that discard. */
function told(plan: Plan): Plan {
  const devices = plan.devices.map((device) => ({
    ...device,
    routes: device.routes.filter(({ to, discard }) => !discard || !to.includes(":")),
  }));
  return { ...plan, devices };
}

/** What all devices say by one way. */
async function readAll(plan: Plan, management: Management, secret: Secret): Promise<Readings> {
  const { way } = secret;
  const port = way === "ssh" ? 22 : 161;
  const all = await Promise.all(
    plan.devices.map(({ id }) => {
      const target = { device: id, address: management.address(id), port, way, proof: null };
      return readDevice(target, secret, { allowed: [MANAGEMENT] });
    }),
  );
  return {
    devices: all.map(({ collector }) => collector),
    cables: [],
    lines: all.flatMap(({ lines }) => lines),
    openWords: new Map(),
  };
}

describe.skipIf(!able).concurrent("devices read live by SNMP and SSH", () => {
  it.each(Array.from({ length: 30 }, (_, i) => i + 1))(
    "give the links and the pings of random network %i",
    async (seed) => {
      const plan = told(kernelPlan(seed));
      await inLab(plan, String(seed), async (lab, management) => {
        const switched = plan.devices.map(({ id }) => `${id}/${PORT}`);
        const [v2c, v3, ssh] = secrets(management);
        const bySnmp = seed % 2 ? v2c : v3;
        // Neighbours announce themselves in their own time.
        const neighbours = plan.links.reduce((sum, { ends }) => sum + ends.length * (ends.length - 1), 0);
        await until(
          async () => {
            const { devices } = await readAll(plan, management, bySnmp);
            return devices.reduce((sum, { facts }) => sum + facts.adjacent.length, 0) >= neighbours;
          },
          20_000,
          1000,
        );
        const answered = await lab.pings(pingsOf(plan));
        for (const secret of [bySnmp, ssh])
          expectReadAlike(plan, await readAll(plan, management, secret), answered, [switched]);
      });
    },
    60_000,
  );

  it("by SNMP hears each neighbour on its own interface, by name", async () => {
    const plan = kernelPlan(3);
    await inLab(plan, "heard", async (_lab, management) => {
      const [v2c] = secrets(management);
      const expected = new Set(
        plan.links.flatMap(({ ends }) =>
          ends.flatMap((a) => ends.flatMap((b) => (a === b ? [] : [`${a} ${b}`]))),
        ),
      );
      const heard = async () => {
        const { devices } = await readAll(plan, management, v2c);
        return devices.flatMap(({ facts, told }) =>
          facts.adjacent
            .filter(({ interface: own }) => own !== PORT)
            .map(({ interface: own, name, port }) => `${told}/${own} ${name}/${port}`),
        );
      };
      await until(async () => (await heard()).length >= expected.size);
      expect(new Set(await heard())).toEqual(expected);
    });
  }, 60_000);
});
