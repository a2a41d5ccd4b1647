import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { XMLParser, XMLValidator } from "fast-xml-parser";
import type { Log, Result } from "sarif";
import { describe, expect, it } from "vitest";
import { run } from "../main.ts";
import { lineFinder } from "./lines.ts";

const demo = new URL("../../demo/marrow-bay.yaml", import.meta.url).pathname;
const folder = mkdtempSync(join(tmpdir(), "iron-fork-pipelines-"));

function call(...args: string[]) {
  const out: string[] = [];
  const errors: string[] = [];
  const code = run(args, { out: (text) => out.push(text), error: (text) => errors.push(text) });
  return { code, out: out.join("\n"), errors: errors.join("\n") };
}

function file(name: string, text: string): string {
  const path = join(folder, name);
  writeFileSync(path, text);
  return path;
}

function sarif(...args: string[]): { code: number; results: Result[]; log: Log } {
  const { code, out } = call(...args, "--format", "sarif");
  const log = JSON.parse(out) as Log;
  return { code, log, results: log.runs[0].results ?? [] };
}

const lineOf = (result: Result) => result.locations?.[0].physicalLocation?.region?.startLine;

interface Suite {
  tests: string;
  failures: string;
  testcase: { name: string; failure?: { message: string }; "system-out"?: string }[];
}

function junit(...args: string[]): { code: number; suite: Suite } {
  const { code, out } = call(...args, "--format", "junit");
  expect(XMLValidator.validate(out)).toBe(true);
  const parser = new XMLParser({
    ignoreAttributes: false,
    attributeNamePrefix: "",
    isArray: (name) => name === "testcase",
  });
  return { code, suite: parser.parse(out).testsuites.testsuite };
}

const BROKEN = `ironFork: 1
name: <broken> & "so"
devices:
  - id: a
    role: router
    routes:
      - to: 10.0.0.0/8
        via: 192.0.2.1
      - to: 10.0.0.0/33
        via: 192.0.2.1
`;

describe("check for pipelines", () => {
  it("tells each error at its line, in YAML and in JSON", () => {
    const yaml = sarif("check", file("broken.yaml", BROKEN));
    expect(yaml.code).toBe(2);
    expect(yaml.results.map(lineOf)).toEqual([9]);
    const json = JSON.stringify({ ironFork: 1, name: "x", devices: [{ id: "a", role: "rooter" }] }, null, 1);
    const { results } = sarif("check", file("broken.json", json));
    expect(results.map(lineOf)).toEqual([json.split("\n").findIndex((line) => line.includes("rooter")) + 1]);
    expect(results[0].message.text).toMatch(/^devices\[0\]\.role: /);
  });

  it("points at the first line where the text is no document at all", () => {
    const { code, results } = sarif("check", file("none.txt", "{ this is not a plan"));
    expect(code).toBe(2);
    expect(results.map(lineOf)).toEqual([1]);
  });

  it("passes where nothing is wrong, with the rule that was looked at", () => {
    const { code, log, results } = sarif("check", demo);
    expect([code, results]).toEqual([0, []]);
    expect(log.version).toBe("2.1.0");
    expect(log.runs[0].tool.driver.rules?.map(({ id }) => id)).toEqual(["plan-document"]);
    expect(junit("check", demo)).toMatchObject({ code: 0, suite: { tests: "1", failures: "0" } });
  });

  it("is XML whatever the plan says", () => {
    const path = file("hostile.yaml", `ironFork: 1\nname: x\n"]]><x \u0001 \ud83d\ude00": 1\n`);
    const { code, suite } = junit("check", path);
    expect([code, suite.failures]).toEqual([2, "1"]);
  });

  it("takes --json or --format, not both", () => {
    const { code, errors } = call("check", demo, "--json", "--format", "sarif");
    expect(code).toBe(2);
    expect(errors).toMatch(/use either --json or --format/);
  });
});

describe("findings for pipelines", () => {
  const text = readFileSync(demo, "utf8").split("\n");

  it("tells every finding that --json tells, at the lines of its route or device", () => {
    const { out } = call("findings", demo, "--json");
    const findings: { code: string; text: string; severity: string }[] = JSON.parse(out);
    const { code, results, log } = sarif("findings", demo);
    expect(code).toBe(1);
    expect(results.map(({ ruleId, message }) => [ruleId, message.text])).toEqual(
      findings.map((finding) => [finding.code, finding.text]),
    );
    const rules = log.runs[0].tool.driver.rules ?? [];
    for (const result of results) expect(rules[result.ruleIndex ?? -1].id).toBe(result.ruleId);
    const watch = results.find(({ ruleId }) => ruleId === "watch-first-hop-only") as Result;
    const line = lineOf(watch) ?? 0;
    // The default of the device that the finding is about.
    expect(text[line - 1]).toMatch(/- to: 0\.0\.0\.0\/0|- \{ to: 0\.0\.0\.0\/0/);
  });

  it("keeps a finding's mark when lines move", () => {
    const marks = (path: string) =>
      sarif("findings", path).results.map(({ partialFingerprints: marks }) => marks?.["ironFork/v1"]);
    const moved = file("moved.yaml", `# one line more\n${text.join("\n")}`);
    expect(marks(moved)).toEqual(marks(demo));
  });

  it("fails as --fail-on says, and lets pass what was set aside", () => {
    const { suite } = junit("findings", demo);
    const all = junit("findings", demo, "--fail-on", "advice").suite;
    expect(Number(all.failures)).toBeGreaterThan(Number(suite.failures));
    expect(Number(suite.failures)).toBeGreaterThan(0);
    expect(suite.testcase).toHaveLength(Number(suite.tests));
    const { out } = call("findings", demo, "--json");
    const [first]: { code: string; device: string | null; subject: string }[] = JSON.parse(out);
    const { code, device, subject } = first;
    const dismissal = JSON.stringify({
      code,
      device: device ?? undefined,
      subject,
      reason: "known & accepted",
    });
    const aside = file("aside.yaml", `${text.join("\n")}\ndismissals:\n  - ${dismissal}\n`);
    const suppressed = sarif("findings", aside).results.filter(({ suppressions }) => suppressions);
    expect(suppressed.map(({ ruleId }) => ruleId)).toEqual([code]);
    expect(suppressed[0].suppressions?.[0].justification).toBe("known & accepted");
  });
});

describe("steps for pipelines", () => {
  it("tells what breaks in between as failures of the rule", () => {
    const safe = junit("steps", demo, demo);
    expect([safe.code, safe.suite.failures]).toEqual([0, "0"]);
    // Both ends of the only link are renumbered: whichever goes first, nothing passes until the other has.
    const plan = (a: string, b: string) => `ironFork: 1
name: renumbered
devices:
  - id: a
    role: router
    interfaces: [{ name: x, addresses: [${a}/30] }, { name: l, kind: loopback, addresses: [10.1.0.1/24] }]
    routes: [{ to: 10.2.0.0/24, via: ${b} }]
  - id: b
    role: router
    interfaces: [{ name: x, addresses: [${b}/30] }, { name: l, kind: loopback, addresses: [10.2.0.1/24] }]
    routes: [{ to: 10.1.0.0/24, via: ${a} }]
links:
  - { id: x, ends: [a/x, b/x] }
flows:
  - { id: across, from: a, source: 10.1.0.1, to: 10.2.0.1 }
`;
    const old = file("old.yaml", plan("192.0.2.1", "192.0.2.2"));
    const now = file("new.yaml", plan("192.0.2.5", "192.0.2.6"));
    const told = JSON.parse(call("steps", old, now, "--json").out);
    const { code, results } = sarif("steps", old, now);
    expect(code).toBe(told.safe ? 0 : 1);
    const breaks = told.visits.flatMap((visit: { breaks: object[]; unreached: object[] }) => [
      ...visit.breaks,
      ...visit.unreached,
    ]);
    expect(breaks.length).toBeGreaterThan(0);
    expect(results.filter(({ level }) => level === "error")).toHaveLength(breaks.length);
    expect(junit("steps", old, now)).toMatchObject({ code: 1, suite: { tests: "4" } });
  });
});

describe("lines", () => {
  it("finds the last part of a path that is there", () => {
    const find = lineFinder(BROKEN);
    expect(find("devices[0].routes[1].to")).toBe(9);
    expect(find("devices[0].routes[7].to")).toBe(7);
    expect(find("nowhere")).toBe(1);
    expect(find("")).toBe(1);
  });
});
