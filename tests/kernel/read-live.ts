import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import type { Plan } from "../../core/plan/index.ts";
import type { Readings } from "../../exchange/readings.ts";
import type { Lab } from "../../lab/lab.ts";
import { freeNet, MANAGEMENT, Management, type Servers, words } from "../../lab/management.ts";
import type { Secret } from "../../live/target.ts";
import { readConfirmed } from "../support/read-confirmed.ts";

let next = 0;

/** Starts servers in all devices of a lab, and stops them again. */
export async function withServers(
  lab: Lab,
  plan: Plan,
  servers: Servers,
  use: (management: Management) => Promise<void>,
) {
  const folder = mkdtempSync(`${tmpdir()}/iron-fork-lab-`);
  const net = freeNet(next);
  next = net + 1;
  const management = new Management(
    lab,
    plan.devices.map(({ id }) => id),
    folder,
    net,
  );
  try {
    await management.start(servers);
    await use(management);
  } finally {
    management.stop();
    rmSync(folder, { recursive: true, force: true });
  }
}

/** What the lab's devices are asked with, by each way. */
export function secretsOf(management: Management): { v2c: Secret; v3: Secret; ssh: Secret } {
  const { community, user, authWord, privacyWord } = words;
  return {
    v2c: { way: "snmp-v2c", community },
    v3: { way: "snmp-v3", user, auth: "sha256", authWord, privacyWord },
    get ssh() {
      return { way: "ssh" as const, user: "root", key: management.key, password: "" };
    },
  };
}

/** What all devices say by one way. */
export async function readAll(plan: Plan, management: Management, secret: Secret): Promise<Readings> {
  const { way } = secret;
  const port = way === "ssh" ? 22 : 161;
  const all = await Promise.all(
    plan.devices.map(({ id }) => {
      const target = { device: id, address: management.address(id), port, way, proof: null };
      return readConfirmed(target, secret, { allowed: [MANAGEMENT] });
    }),
  );
  return {
    devices: all.map(({ collector }) => collector),
    cables: [],
    lines: all.flatMap(({ lines }) => lines),
    openWords: new Map(),
  };
}

/** Takes out of a lab what its agents leave out of their tables: routes of IPv6 that discard. The plan without them. */
export function withoutUntold(lab: Lab, plan: Plan): Plan {
  const devices = plan.devices.map((device) => {
    const untold = device.routes.filter(({ to, discard }) => discard && to.includes(":"));
    for (const route of untold) lab.withdraw(device.id, route);
    return { ...device, routes: device.routes.filter((route) => !untold.includes(route)) };
  });
  return { ...plan, devices };
}
