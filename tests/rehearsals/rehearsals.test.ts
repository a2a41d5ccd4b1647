import { type ChildProcess, execFile, spawn } from "node:child_process";
import { once } from "node:events";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { fileURLToPath } from "node:url";
import { build } from "esbuild";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { canBuild } from "../../lab/lab.ts";
import { type Rehearsal, rehearsalSchema } from "../../lab/rehearsal/result.ts";
import { run } from "../../lab/shell.ts";
import { rehearsalCases } from "./plans.ts";

const able = canBuild();
if (!able) console.warn("Rehearsals are skipped: they need root, iproute2, nftables and ping.");

const root = fileURLToPath(new URL("../..", import.meta.url));
const program = `${root}build/lab-under-test/main.js`;
const seed = Number(process.env.SEED ?? Math.floor(Math.random() * 2 ** 31));

/** The namespaces of a process's rehearsal. */
const namespacesOf = (pid: number | undefined) =>
  run("ip", ["netns", "list"])
    .stdout.split("\n")
    .filter((line) => line.startsWith(`ifrun-${pid}-`));

describe
  .skipIf(!able)
  .concurrent("rule 20: an outage on a real kernel is as predicted", { timeout: 90_000 }, () => {
    const folder = mkdtempSync(`${tmpdir()}/iron-fork-rehearsals-`);
    beforeAll(async () => {
      await build({
        entryPoints: { main: `${root}lab/main.ts`, agent: `${root}lab/agent/main.ts` },
        outdir: `${root}build/lab-under-test`,
        ...{ bundle: true, platform: "node", format: "esm", target: "node20", packages: "external" },
      });
    });
    afterAll(() => rmSync(folder, { recursive: true, force: true }));

    const rehearse = (name: string, document: unknown): Promise<{ found: Rehearsal; code: number }> => {
      const file = `${folder}/${name.replaceAll(/\W+/g, "-")}.json`;
      writeFileSync(file, JSON.stringify(document));
      return new Promise((resolve, reject) =>
        execFile("node", [program, "run", file, "--outage", "o", "--json"], (error, stdout, stderr) => {
          try {
            const found = rehearsalSchema.parse(JSON.parse(stdout));
            resolve({ found, code: Number(error?.code ?? 0) });
          } catch {
            reject(new Error(stderr));
          }
        }),
      );
    };

    it.each(rehearsalCases(seed))(`$name (seed ${seed})`, async ({ name, plan, steps }) => {
      const { found, code } = await rehearse(name, { ...plan, outages: [{ id: "o", steps }] });
      const disagreeing = found.flows.filter(({ agrees }) => agrees !== true);
      expect({ disagreeing, leftOut: found.leftOut, events: disagreeing.length ? found.events : [] }).toEqual(
        {
          disagreeing: [],
          leftOut: [],
          events: [],
        },
      );
      expect(code).toBe(0);
    });

    it("leaves nothing behind when it is told to end, and when it is killed nothing beyond the next one", async () => {
      const { plan, steps } = rehearsalCases(seed)[0];
      const file = `${folder}/ended.json`;
      writeFileSync(file, JSON.stringify({ ...plan, outages: [{ id: "o", steps }] }));
      const begin = async () => {
        const child = spawn("node", [program, "run", file, "--outage", "o"], {
          stdio: ["ignore", "ignore", "pipe"],
        });
        await new Promise<void>((resolve) =>
          child.stderr.on("data", (data) => String(data).includes("Sending") && resolve()),
        );
        return child;
      };
      const end = async (child: ChildProcess, signal: NodeJS.Signals) => {
        const gone = once(child, "exit");
        child.kill(signal);
        await gone;
      };
      const told = await begin();
      expect(namespacesOf(told.pid)).toHaveLength(plan.devices.length + 1);
      await end(told, "SIGTERM");
      expect(namespacesOf(told.pid)).toEqual([]);
      const killed = await begin();
      await end(killed, "SIGKILL");
      expect(namespacesOf(killed.pid)).toHaveLength(plan.devices.length + 1);
      const next = await begin();
      expect(namespacesOf(killed.pid)).toEqual([]);
      await end(next, "SIGINT");
      expect(namespacesOf(next.pid)).toEqual([]);
    });
  });
