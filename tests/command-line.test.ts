import { spawnSync } from "node:child_process";
import { readdirSync, readFileSync, truncateSync, writeFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { beforeAll, expect, it } from "vitest";
import { run } from "../cli/main.ts";

const root = fileURLToPath(new URL("../", import.meta.url));
const built = `${root}build/cli/`;
const plan = `${root}demo/marrow-bay.yaml`;

/** What the program says, as a user starts it. */
function program(args: readonly string[], input = "") {
  const { status, stdout, stderr } = spawnSync("node", [`${root}bin/iron-fork.mjs`, ...args], {
    encoding: "utf8",
    input,
  });
  return { status, stdout, stderr };
}

/** The same asked of the sources. */
function asked(args: readonly string[]) {
  const said = { out: "", error: "" };
  const status = run(args, {
    out: (text) => {
      said.out += `${text}\n`;
    },
    error: (text) => {
      said.error += `${text}\n`;
    },
  });
  return { status, stdout: said.out, stderr: said.error };
}

// Where a source is newer than the bundle, the first question builds it.
beforeAll(() => void program(["check", plan]), 60_000);

it.each([
  ["a sound plan", ["check", plan]],
  ["a question in JSON", ["findings", plan, "--json"]],
  ["a plan that is missing on the device", ["check", "nowhere.yaml"]],
  ["a command that there is not", ["chek", plan]],
])("the bundled program says what the sources say of %s", (_, args) => {
  expect(program(args)).toEqual(asked(args));
});

it("a batch is answered line by line, a line that is none among them", () => {
  const { status, stdout } = program(["batch"], `["check", ${JSON.stringify(plan)}, "--json"]\nnone\n`);
  const [first, second] = stdout
    .trim()
    .split("\n")
    .map((line) => JSON.parse(line));
  expect([status, first.exit, second.exit]).toEqual([0, 0, 2]);
  expect(first.out).toEqual(JSON.parse(asked(["check", plan, "--json"]).stdout));
});

it("compiled code is kept for the bundle that it was made of, and what is spoiled of it is not taken", () => {
  const kept = readdirSync(built).filter((name) => /^iron-fork\.cjs\.[0-9a-f]{16}$/.test(name));
  expect(kept).toHaveLength(1);
  const path = built + kept[0];
  const code = readFileSync(path);
  expect(code.length).toBeGreaterThan(100_000);
  try {
    truncateSync(path, 5000);
    expect(program(["check", plan])).toEqual(asked(["check", plan]));
  } finally {
    writeFileSync(path, code);
  }
});
