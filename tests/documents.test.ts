import { existsSync, readdirSync, readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";

const root = new URL("../", import.meta.url);
const text = (name: string) => readFileSync(new URL(name, root), "utf8");

describe("documents tell what is there", () => {
  it.each(["docs/finding-your-way.md", "core/README.md"])("%s names files and folders that exist", (name) => {
    const base = name.startsWith("core") ? "core/" : "";
    const named = [...text(name).matchAll(/`((?:[\w.-]+\/)+[\w.-]*)`/g)].map(([, path]) => path);
    expect(named.length).toBeGreaterThan(5);
    expect(named.filter((path) => !existsSync(new URL(base + path, root)))).toEqual([]);
  });

  it("the README links every picture, and under twenty of them", () => {
    const pictures = readdirSync(new URL("docs/screenshots/", root));
    expect(pictures.length).toBeLessThan(20);
    for (const picture of pictures) expect(text("README.md")).toContain(`docs/screenshots/${picture}`);
  });

  it("each rule of the engine up to 12.2 stands in a test's name", () => {
    const tests = readdirSync(new URL("core/", root), { recursive: true, encoding: "utf8" })
      .filter((name) => name.endsWith(".test.ts"))
      .map((name) => text(`core/${name}`))
      .join("\n");
    // A test's name: the text that stands before its function.
    const names = [...tests.matchAll(/["`]([^"`\n]{4,})["`],\s*(?:async\s*)?\(/g)].map(([, name]) => name);
    const numbers = new Set(names.flatMap((name) => name.match(/\b\d{1,2}\.\d\b/g) ?? []));
    const rules: [number, number][] = [
      [2, 6],
      [3, 4],
      [4, 9],
      [5, 4],
      [6, 7],
      [7, 4],
      [9, 6],
      [10, 4],
      [12, 2],
    ];
    const missing = rules.flatMap(([rule, last]) =>
      Array.from({ length: last }, (_, n) => `${rule}.${n + 1}`).filter((number) => !numbers.has(number)),
    );
    expect(missing).toEqual([]);
  });
});
