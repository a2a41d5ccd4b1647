import { describe, expect, it } from "vitest";
import { canBuild, Lab } from "../../lab/lab.ts";
import { missingServers, PORT } from "../../lab/management.ts";
import { until } from "../support/until.ts";
import { kernelPlan } from "./plans.ts";
import { readAll, secretsOf, withServers } from "./read-live.ts";

describe.skipIf(!canBuild() || missingServers().length > 0)("neighbours that announce themselves", () => {
  it("are heard each on its own interface, by name, as SNMP tells it", async () => {
    const plan = kernelPlan(3);
    const lab = new Lab(plan, `if${process.pid % 10000}heard`);
    try {
      lab.build();
      await withServers(lab, plan, { snmp: true, ssh: false, neighbours: true }, async (management) => {
        const { v2c } = secretsOf(management);
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
    } finally {
      lab.remove();
    }
  }, 60_000);
});
