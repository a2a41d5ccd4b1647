import { existsSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { fileURLToPath } from "node:url";

/** Gives the agent's program to a task: the one that was built beside this, or one made from its source for the while. */
export async function withAgentProgram<T>(task: (agent: string) => Promise<T>): Promise<T> {
  const built = fileURLToPath(new URL("agent.js", import.meta.url));
  if (existsSync(built)) return task(built);
  const folder = mkdtempSync(`${tmpdir()}/iron-fork-agent-`);
  try {
    const { build } = await import("esbuild");
    const agent = `${folder}/agent.mjs`;
    await build({
      entryPoints: [fileURLToPath(new URL("../agent/main.ts", import.meta.url))],
      outfile: agent,
      ...{ bundle: true, platform: "node", format: "esm", target: "node20", logLevel: "warning" },
    });
    return await task(agent);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
