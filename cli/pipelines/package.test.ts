import { execFileSync } from "node:child_process";
import { cpSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { fileURLToPath } from "node:url";
import { describe, expect, it } from "vitest";

const root = fileURLToPath(new URL("../../", import.meta.url));

describe("the packed command line", () => {
  it("is installed from its tarball alone, in an empty folder, and answers there", () => {
    const folder = mkdtempSync(`${tmpdir()}/iron-fork-package-`);
    const run = (command: string, ...args: string[]) =>
      execFileSync(command, args, { cwd: folder, encoding: "utf8", stdio: ["ignore", "pipe", "pipe"] });
    try {
      const tarball = run(process.execPath, `${root}bin/pack-cli.mjs`, folder).trim();
      run("npm", "install", "--offline", "--no-save", "--no-audit", "--no-fund", tarball);
      cpSync(`${root}demo/marrow-bay.yaml`, `${folder}/plan.yaml`);
      expect(run("npx", "--offline", "iron-fork", "check", "plan.yaml")).toContain(
        "Marrow Bay Ferries is valid",
      );
      expect(
        JSON.parse(
          run("npx", "--offline", "iron-fork", "summarise", "10.0.0.0/25", "10.0.0.128/25", "--json"),
        ),
      ).toMatchObject({
        exact: ["10.0.0.0/24"],
      });
    } finally {
      rmSync(folder, { recursive: true, force: true });
    }
  }, 60_000);
});
