import { readFileSync } from "node:fs";
import { expect, it } from "vitest";

it("every package of the lock file has its digest, and none names where it was fetched", () => {
  const lock = JSON.parse(readFileSync(new URL("../package-lock.json", import.meta.url), "utf8"));
  const packages = Object.entries<{ integrity?: string; resolved?: string }>(lock.packages).slice(1);
  expect(packages.length).toBeGreaterThan(100);
  for (const [name, { integrity, resolved }] of packages) {
    expect(integrity, name).toMatch(/^sha(256|384|512)-/);
    expect(resolved, name).toBeUndefined();
  }
});
