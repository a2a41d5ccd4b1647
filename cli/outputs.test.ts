import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { run } from "./main.ts";
import { outputSchemas } from "./output-schemas.ts";

const demo = (name: string) => new URL(`../demo/${name}.yaml`, import.meta.url).pathname;
const cases = readdirSync(new URL("../demo/cases/", import.meta.url))
  .filter((name) => name.endsWith(".yaml"))
  .map((name) => `cases/${name.replace(".yaml", "")}`);

function call(...args: string[]) {
  const out: string[] = [];
  const errors: string[] = [];
  const code = run([...args, "--json"], {
    out: (text) => out.push(text),
    error: (text) => errors.push(text),
  });
  return { code, json: JSON.parse(out.join("\n")), errors: errors.join("\n") };
}

describe("every command answers in the shape that docs/output.schema.json tells", () => {
  it.each(["marrow-bay", "three-routers", ...cases])("%s", (name) => {
    const plan = demo(name);
    expect(outputSchemas.check.safeParse(call("check", plan).json).error).toBeUndefined();
    const found = call("findings", plan);
    expect(outputSchemas.findings.safeParse(found.json).error).toBeUndefined();
    const grave = found.json.some((finding: { severity: string }) => finding.severity === "error");
    expect(found.code).toBe(grave ? 1 : 0);
    expect(outputSchemas.sweep.safeParse(call("sweep", plan, "--depth", "2").json).error).toBeUndefined();
    const link = name === "marrow-bay" ? "link:tern-north" : `link:${firstLink(plan)}`;
    const timeline = call("timeline", plan, "--fail", link, "--restore-after", "60000");
    expect(outputSchemas.timeline.safeParse(timeline.json).error).toBeUndefined();
    expect(outputSchemas.diff.parse(call("diff", plan, plan).json)).toEqual({
      routes: { added: [], removed: [], changed: [] },
      ranges: [],
      flows: [],
    });
  });

  it("steps", () => {
    const { json, code } = call("steps", demo("three-routers"), demo("three-routers"));
    expect(outputSchemas.steps.parse(json)).toEqual({
      safe: true,
      proven: { states: 0, flows: 1, subnets: 5 },
      moved: 0,
      alternative: null,
      visits: [],
      anyOrder: [],
      helpers: null,
      unproven: [],
    });
    expect(code).toBe(0);
  });

  function firstLink(plan: string): string {
    const { json } = call("sweep", plan);
    const failed = json.flows.flatMap((f: { failures: { failed: string[] }[] }) =>
      f.failures.flatMap((x) => x.failed),
    );
    return failed.find((ref: string) => ref.startsWith("link:"))?.slice(5) ?? "desk-lan";
  }

  it("table, lookup, path and summarise", () => {
    const plan = demo("marrow-bay");
    for (const device of ["tern-edge", "office-fw", "internet", "bay-cloud", "booking"]) {
      expect(
        outputSchemas.table.safeParse(call("table", plan, "--device", device).json).error,
      ).toBeUndefined();
      expect(
        outputSchemas.lookup.safeParse(call("lookup", plan, "--device", device, "--to", "172.20.16.10").json)
          .error,
      ).toBeUndefined();
    }
    const path = call("path", plan, "--from", "gull-desk", "--to", "203.0.113.200").json;
    expect(outputSchemas.path.safeParse(path).error).toBeUndefined();
    const shared = call(
      "path",
      demo("cases/backup-of-the-same-distance"),
      "--from",
      "desk",
      "--to",
      "server",
    ).json;
    expect(outputSchemas.path.parse(shared).paths).toHaveLength(2);
    const summary = call("summarise", "10.0.0.0/25", "10.0.0.128/26", "--plan", plan).json;
    expect(outputSchemas.summarise.parse(summary)).toEqual({
      exact: ["10.0.0.0/25", "10.0.0.128/26"],
      single: {
        prefix: "10.0.0.0/24",
        swallows: ["10.0.0.192/26"],
        elsewhere: [],
        unowned: ["10.0.0.192/26"],
      },
    });
  });

  it("read, write and drift", () => {
    const folder = mkdtempSync(join(tmpdir(), "iron-fork-cli-"));
    const written = call("write", demo("marrow-bay"), "--as", "csv", "--to", folder).json;
    expect(outputSchemas.write.parse(written).files).toHaveLength(3);
    const read = call("read", folder).json;
    expect(outputSchemas.read.safeParse(read).error).toBeUndefined();
    expect(read.plan.devices.length).toBeGreaterThan(20);
    const drift = call("drift", demo("marrow-bay"), folder).json;
    expect(outputSchemas.drift.safeParse(drift).error).toBeUndefined();
    expect(drift.differences.filter((d: { kind: string }) => d.kind === "route-differs")).toEqual([]);
  });

  it("the example of the format's own document, which loses its north circuit for 11 to 21 s", () => {
    const [, text] =
      /```yaml\n([\s\S]*?)```/.exec(
        readFileSync(new URL("../docs/plan-document.md", import.meta.url), "utf8"),
      ) ?? [];
    const plan = join(mkdtempSync(join(tmpdir(), "iron-fork-docs-")), "example.yaml");
    writeFileSync(plan, text ?? "");
    expect(call("check", plan).json.ok).toBe(true);
    expect(outputSchemas.findings.safeParse(call("findings", plan).json).error).toBeUndefined();
    const [flow] = outputSchemas.timeline.parse(call("timeline", plan, "--outage", "dark").json).flows;
    expect(flow).toMatchObject({ outageMs: { min: 11_000, max: 21_000 }, lost: { min: 110, max: 210 } });
    expect(flow.spans.map((span) => span.carriers.join())).toEqual(["", "radio", "north"]);
  });

  it("findings fail at the severity that is asked for", () => {
    const plan = demo("cases/handed-out-gateway");
    expect(call("findings", plan).code).toBe(0);
    expect(call("findings", plan, "--fail-on", "warning").code).toBe(1);
  });

  it("a timeline needs something to happen, and an outage that is there", () => {
    const errors: string[] = [];
    const output = { out: () => {}, error: (text: string) => errors.push(text) };
    expect(run(["timeline", demo("marrow-bay")], output)).toBe(2);
    expect(run(["timeline", demo("marrow-bay"), "--outage", "none"], output)).toBe(2);
    expect(errors.join("\n")).toMatch(
      /choose the outage[\s\S]*there is no outage none; the plan has north-dark/,
    );
  });
});
