import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { run } from "./main.ts";

const demo = new URL("../demo/marrow-bay.yaml", import.meta.url).pathname;
const folder = mkdtempSync(join(tmpdir(), "iron-fork-cli-"));

function call(...args: string[]) {
  const out: string[] = [];
  const errors: string[] = [];
  const code = run(args, { out: (text) => out.push(text), error: (text) => errors.push(text) });
  return { code, out: out.join("\n"), errors: errors.join("\n") };
}

// biome-ignore lint/suspicious/noExplicitAny: the shapes are what these tests look at.
function json(...args: string[]): any {
  const { code, out, errors } = call(...args, "--json");
  if (code !== 0) throw new Error(errors);
  return JSON.parse(out);
}

function file(name: string, text: string): string {
  const path = join(folder, name);
  writeFileSync(path, text);
  return path;
}

describe("the demo plan, flow by flow", () => {
  const tcp = ["--protocol", "tcp", "--port", "443"];
  const tickets = ["--from", "tern-desk", "--source", "172.20.16.10", "--to", "203.0.113.70", ...tcp];

  it.each<[string, string[], string, string[], boolean | null]>([
    ["tickets", tickets, "works", ["north"], true],
    ["tickets, last mile cut", [...tickets, "--fail", "link:tern-north"], "works", ["radio"], true],
    ["tickets, ring silent", [...tickets, "--fail", "link:north-ring"], "fails", ["north"], null],
    [
      "tickets over IPv6",
      ["--from", "tern-desk", "--to", "2001:db8:90::10", ...tcp],
      "works",
      ["north"],
      true,
    ],
    [
      "tickets over IPv6, last mile cut",
      ["--from", "tern-desk", "--to", "2001:db8:90::10", ...tcp, "--fail", "link:tern-north"],
      "fails",
      [],
      null,
    ],
    ["Skerry to booking", ["--from", "skerry-desk", "--to", "203.0.113.70", ...tcp], "works", [], true],
    ["Skerry to timetable", ["--from", "skerry-desk", "--to", "timetable"], "works", [], true],
    [
      "Longhaven to timetable: another return path",
      ["--from", "longhaven-desk", "--to", "timetable"],
      "works",
      ["long-1"],
      false,
    ],
    [
      "Longhaven to the internet",
      ["--from", "longhaven-desk", "--to", "203.0.113.200", ...tcp],
      "works",
      ["long-1", "office-exit"],
      true,
    ],
    ["Gull Rock to timetable", ["--from", "gull-desk", "--to", "timetable"], "works", [], true],
    [
      "Gull Rock to the internet: two defaults face each other",
      ["--from", "gull-desk", "--to", "203.0.113.200", ...tcp],
      "fails",
      [],
      null,
    ],
    [
      "cameras: no return path",
      ["--from", "longhaven-cam", "--to", "203.0.113.70", ...tcp],
      "one-way",
      ["long-1"],
      null,
    ],
    [
      "office to the internet",
      ["--from", "office-pc", "--to", "203.0.113.200", ...tcp],
      "works",
      ["office-exit"],
      true,
    ],
    [
      "cloud to booking",
      ["--from", "cloud-app", "--to", "booking", "--source", "10.60.1.10", ...tcp],
      "works",
      ["cloud-exit"],
      true,
    ],
  ])("%s", (_what, args, verdict, carriers, symmetric) => {
    const report = json("path", demo, ...args);
    expect(report).toMatchObject({ verdict, carriers, symmetric });
  });

  it("says where a packet dies when nobody notices, and where it circles", () => {
    const silent = json("path", demo, ...tickets, "--fail", "link:north-ring");
    expect(silent.outbound.drop).toMatchObject({ device: "north-access", code: "link-dead" });
    const circle = json("path", demo, "--from", "gull-desk", "--to", "203.0.113.200");
    expect(circle.outbound).toMatchObject({ result: "looped", drop: { code: "looped" } });
    expect(circle.reply).toBeNull();
  });

  it("tells hops as the document of the format says", () => {
    const { outbound } = json("path", demo, ...tickets);
    expect(outbound.hops[0]).toEqual({
      device: "tern-desk",
      vrf: "main",
      in: null,
      match: "0.0.0.0/0",
      out: "eth0",
      nextHop: "172.20.16.1",
      to: "tern-edge",
    });
    expect(outbound.hops.at(-1)).toMatchObject({ device: "booking", in: "eth0", out: null, to: null });
    expect(outbound.drop).toBeNull();
  });
});

describe("table and lookup", () => {
  it("tell every candidate with its state and reason", () => {
    const report = json("table", demo, "--device", "tern-edge", "--fail", "link:tern-north");
    expect(report).toMatchObject({ device: "tern-edge", vrf: "main", failed: ["link:tern-north"] });
    const defaults = report.routes.filter((route: { to: string }) => route.to === "0.0.0.0/0");
    expect(defaults).toMatchObject([
      { source: "static", via: "192.0.2.5", distance: 20, metric: 0, state: "in-use", reason: null },
      {
        source: "static",
        via: "198.51.100.1",
        distance: 1,
        state: "unusable",
        reason: { code: "next-hop-unresolved" },
      },
    ]);
  });

  it("look an address up, longest match first", () => {
    const report = json("lookup", demo, "--device", "hall-router", "--to", "172.20.64.10");
    expect(report.matches.map((match: { to: string; state: string }) => [match.to, match.state])).toEqual([
      ["172.20.64.0/24", "in-use"],
      ["0.0.0.0/0", "in-use"],
    ]);
  });
});

describe("input that cannot be used ends with exit code 2 and a sentence", () => {
  it.each<[string, () => string[], RegExp]>([
    [
      "a file that is missing on the device",
      () => ["check", "/no/such/plan.yaml"],
      /cannot read .*no such file/,
    ],
    ["a folder", () => ["check", folder], /it is a folder/],
    ["broken JSON", () => ["check", file("broken.json", '{ "ironFork": 1, ')], /not valid JSON/],
    ["broken YAML", () => ["check", file("broken.yaml", "ironFork: 1\nname: [")], /not valid YAML, line/],
    [
      "ten megabytes of rubbish",
      () => ["check", file("rubbish", "x7 %&/()=\n".repeat(1_000_000))],
      /not a plan/,
    ],
    ["bytes that are no text", () => ["check", file("bytes", "ironFork: 1\u0000")], /zero byte/],
    ["an empty file", () => ["check", file("empty", " \n")], /empty/],
    [
      "a wrong mask",
      () => [
        "check",
        file(
          "mask.yaml",
          "ironFork: 1\nname: x\ndevices:\n  - {id: a, role: router, interfaces: [{name: e, addresses: [10.0.0.1/40]}]}\n",
        ),
      ],
      /devices\[0\]\.interfaces\[0\]\.addresses\[0\]: .*0 to 32/,
    ],
    ["an unknown device", () => ["table", demo, "--device", "nobody"], /there is no device nobody/],
    [
      "an unknown element",
      () => ["table", demo, "--device", "tern-edge", "--fail", "link:none"],
      /there is no link none/,
    ],
    [
      "an element of no kind",
      () => ["table", demo, "--device", "tern-edge", "--fail", "cable"],
      /is not an element/,
    ],
    ["an unknown VRF", () => ["table", demo, "--device", "tern-edge", "--vrf", "red"], /no VRF red/],
    [
      "no address",
      () => ["lookup", demo, "--device", "tern-edge", "--to", "300.1.1.1"],
      /not an IPv4 or IPv6 address/,
    ],
    [
      "a port without a protocol",
      () => ["path", demo, "--from", "tern-desk", "--to", "booking", "--port", "80"],
      /--port needs/,
    ],
    ["a command that there is not", () => ["conquer", demo], /unknown command/],
  ])("%s", (_what, args, wanted) => {
    const { code, out, errors } = call(...args());
    expect(code).toBe(2);
    expect(errors).toMatch(wanted);
    expect(out).toBe("");
  });

  it("check prints counts of a sound plan", () => {
    expect(json("check", demo)).toMatchObject({ ok: true, counts: { devices: 27, flows: 13 } });
  });
});

describe("findings that the plan sets aside", () => {
  const plan = (more: string) => `ironFork: 1
name: a forward path and none back
devices:
  - { id: a, role: host, interfaces: [{ name: e, addresses: [10.1.0.10/24] }], routes: [{ to: 0.0.0.0/0, via: 10.1.0.1 }] }
  - { id: r, role: router, interfaces: [{ name: x, addresses: [10.1.0.1/24] }, { name: y, addresses: [10.2.0.1/24] }] }
  - { id: b, role: host, interfaces: [{ name: e, addresses: [10.2.0.20/24] }] }
links:
  - { id: x, medium: switch, ends: [a/e, r/x] }
  - { id: y, medium: switch, ends: [r/y, b/e] }
flows: [{ id: f, from: a, to: 10.2.0.20 }]
${more}`;

  it("tell their reason and do not count for the exit code, nor are others touched", () => {
    const open = call("findings", file("open.yaml", plan("")), "--json");
    expect(open.code).toBe(1);
    const [finding] = JSON.parse(open.out);
    expect(finding.dismissed).toBeUndefined();
    const aside = `dismissals: [{ code: ${finding.code}, device: ${finding.device}, subject: "${finding.subject}", reason: it answers by radio }]`;
    const set = call("findings", file("aside.yaml", plan(aside)), "--json");
    expect(set.code).toBe(0);
    expect(JSON.parse(set.out)[0]).toMatchObject({ code: finding.code, dismissed: "it answers by radio" });
    expect(call("findings", file("aside.yaml", plan(aside))).out).toContain("accepted: it answers by radio");
    const other = plan(aside.replace(`"${finding.subject}"`, "another"));
    expect(call("findings", file("other.yaml", other)).code).toBe(1);
  });

  it("are refused without a reason, and told twice", () => {
    const bad = (text: string) => call("check", file("bad.yaml", plan(text))).errors;
    expect(bad('dismissals: [{ code: x, subject: y, reason: "" }]')).toContain("a dismissal needs a reason");
    expect(
      bad("dismissals: [{ code: x, subject: y, reason: z }, { code: x, subject: y, reason: w }]"),
    ).toContain("appears twice");
  });
});

describe("what devices say", () => {
  const table = file("tern.txt", " H 0.0.0.0/0 198.51.100.1 wan1 [1/0]\n O 198.51.100.0/30 - wan1 [0/0]\n");
  const words = ["--word", "H=static", "--word", "O=connected"];

  it("is read into a plan, with facts and a fate for every line", () => {
    const read = json("read", table, ...words);
    expect(read.facts[0].routes[0]).toEqual({
      to: "0.0.0.0/0",
      via: "198.51.100.1",
      out: "wan1",
      vrf: "main",
      table: null,
      source: "static",
      distance: 1,
      metric: 0,
      active: null,
      discard: null,
    });
    expect(read.lines.map((line: { line: number; fate: string }) => [line.line, line.fate])).toEqual([
      [1, "taken"],
      [2, "taken"],
    ]);
    expect(read.outlines).toHaveLength(1);
    expect(read.links[0]).toMatchObject({ certain: false, ends: ["tern/wan1", "unknown-198-51-100-1/port"] });
    const { out, errors } = call("read", table);
    expect(out).toMatch(/^ironFork: 1/);
    expect(errors).toContain('unknown code "H"');
  });

  it("goes into a plan that is there, and drift is told with exit code 1", () => {
    const plan = file("tern-plan.yaml", call("read", table, ...words).out);
    expect(json("drift", plan, table, ...words)).toEqual({
      differences: [],
      ignored: [],
      compared: ["tern"],
    });
    const later = file("tern.txt", " H 0.0.0.0/0 198.51.100.1 wan1 [7/0]\n O 198.51.100.0/30 - wan1 [0/0]\n");
    const { code, out } = call("drift", plan, later, ...words);
    expect(code).toBe(1);
    expect(out).toContain("has the distance 7, planned 1");
    const merged = json("read", later, ...words, "--into", plan);
    expect(merged.plan.devices[0].routes[0].distance).toBe(7);
  });

  it("is written for devices and other tools, each in its form", () => {
    for (const as of ["ietf-json", "ietf-xml", "iproute2", "csv", "topology"]) {
      const { files } = json("write", demo, "--as", as, "--to", join(folder, as));
      expect(files.length).toBeGreaterThan(0);
      for (const name of files)
        expect(readFileSync(join(folder, as, name), "utf8").length).toBeGreaterThan(0);
    }
    expect(call("write", demo, "--as", "csv", "--device", "nobody", "--to", folder).code).toBe(2);
  });

  it("that cannot be used ends with 2 and a sentence", () => {
    expect(call("read", join(folder, "nowhere")).errors).toContain("there is no such file or folder");
    expect(call("read", table, "--word", "static").errors).toContain(
      "--word static is not a code and its meaning",
    );
    expect(call("read", file("notes.txt", "no table at all")).code).toBe(2);
    expect(call("read", table, "--layout", file("layout.json", "{}")).code).toBe(2);
  });
});

describe("the steps of a change", () => {
  const old = new URL("../demo/three-routers.yaml", import.meta.url).pathname;
  const text = readFileSync(old, "utf8");

  it("come with their checks, and the plan after each visit where a folder is given", () => {
    const demoText = readFileSync(demo, "utf8");
    const wanted = file(
      "wanted.yaml",
      demoText
        .replace(
          '{ to: 172.20.97.0/24, via: 172.20.255.26, note: "yard: paint shop" }',
          "{ to: 172.20.102.0/24, via: 172.20.255.26 }",
        )
        .replace("{ to: 172.20.8.0/24, via: 172.20.0.2 }", "{ to: 172.20.8.0/24, via: 172.20.255.18 }"),
    );
    const plans = join(folder, "after");
    const runbook = json("steps", demo, wanted, "--plans", plans);
    expect(runbook.safe).toBe(true);
    expect(runbook.visits.map(({ device }: { device: string }) => device).sort()).toEqual([
      "office-core-1",
      "office-core-2",
    ]);
    const core = runbook.visits.find(({ device }: { device: string }) => device === "office-core-1");
    expect(core.steps.map(({ texts }: { texts: { sentence: string } }) => texts.sentence)).toContain(
      "Remove the route 172.20.97.0/24 via 172.20.255.26 on office-core-1",
    );
    expect(core.before).toContainEqual({
      kind: "table",
      device: "office-core-1",
      vrf: "main",
      to: "172.20.97.0/24",
      inUse: ["via 172.20.255.26"],
    });
    expect(core.after).toContainEqual(expect.objectContaining({ to: "172.20.97.0/24", inUse: [] }));
    expect(json("diff", join(plans, "02.json"), wanted).routes).toEqual({
      added: [],
      removed: [],
      changed: [],
    });
    expect(json("diff", join(plans, "01.json"), wanted).routes.added.length).toBeLessThan(2);
    const said = call("steps", demo, wanted).out;
    expect(said).toContain(
      "Safe: traffic that works before and after also works after every step (3 states, each with 11 flows",
    );
    expect(said).toContain("before  office-core-1: 172.20.97.0/24 via 172.20.255.26");
  });

  it("end with 1 where no order is safe, and say what breaks and until when", () => {
    const renumbered = file("renumbered.yaml", text.replaceAll("10.0.12.", "10.0.212."));
    const { code, out } = call("steps", old, renumbered, "--json");
    const runbook = JSON.parse(out);
    expect(code).toBe(1);
    expect(runbook.safe).toBe(false);
    const breaks = runbook.visits.flatMap(
      (visit: { breaks: { flow: string; until: number }[] }) => visit.breaks,
    );
    expect(breaks.length).toBeGreaterThan(0);
    for (const { until } of breaks) expect(until).toBeLessThanOrEqual(runbook.visits.length);
    expect(call("steps", old, renumbered).out).toContain("INTERRUPTS flow");
  });
});
