import { describe, expect, it } from "vitest";
import { type BatchAnswer, runBatch } from "./batch.ts";

const demo = "demo/marrow-bay.yaml";

async function batch(lines: readonly string[]): Promise<BatchAnswer[]> {
  const answers: BatchAnswer[] = [];
  let asked = 0;
  async function* given() {
    for (const line of lines) {
      // Each line is answered before the next is read.
      expect(answers).toHaveLength(asked++);
      yield line;
    }
  }
  await runBatch(given(), (line) => answers.push(JSON.parse(line)));
  return answers;
}

describe("iron-fork batch", () => {
  it("answers each line by itself, with JSON as JSON and text as text", async () => {
    const [check, path, text] = await batch([
      JSON.stringify(["check", demo, "--json"]),
      JSON.stringify(["path", demo, "--from", "tern-desk", "--to", "203.0.113.70", "--json"]),
      JSON.stringify(["check", demo]),
    ]);
    expect(check).toMatchObject({ exit: 0, out: { ok: true, counts: { devices: 27 } }, error: null });
    expect(path).toMatchObject({
      exit: 0,
      out: { verdict: expect.any(String), outbound: { hops: expect.any(Array) } },
    });
    expect(text.out).toContain("Marrow Bay Ferries is valid");
  });

  it("goes on after lines that cannot be used, and tells the exit code of each", async () => {
    const answers = await batch(
      [
        "rubbish",
        '{"check": 1}',
        JSON.stringify(["batch"]),
        JSON.stringify(["table", "nowhere.yaml", "--device", "x"]),
        JSON.stringify(["findings", demo, "--json"]),
        JSON.stringify(["check", demo]),
      ].slice(0, 6),
    );
    expect(answers.map(({ exit }) => exit)).toEqual([2, 2, 2, 2, 1, 0]);
    expect(answers.slice(0, 4).every(({ error, out }) => error !== null && out === null)).toBe(true);
  });

  it("says that a source is down, and that watches flap", async () => {
    const [down] = await batch([
      JSON.stringify([
        "path",
        demo,
        "--from",
        "tern-edge",
        "--source",
        "198.51.100.2",
        "--to",
        "203.0.113.70",
        "--fail",
        "interface:tern-edge/wan1",
        "--json",
      ]),
    ]);
    expect(down.out).toMatchObject({ verdict: "fails", outbound: { drop: { code: "source-not-own" } } });
    expect(JSON.stringify(down.out)).toContain("wan1 is down");
    const [flapping] = await batch([
      JSON.stringify([
        "path",
        "demo/cases/watch-through-the-backup.yaml",
        "--from",
        "desk",
        "--to",
        "server",
        "--fail",
        "link:north",
        "--json",
      ]),
    ]);
    expect(flapping.exit).toBe(2);
  });
});
