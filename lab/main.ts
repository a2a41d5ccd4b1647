import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { Command, InvalidArgumentError } from "commander";
import { formatPlanError, missingElement, type Outage, type Plan, readPlan } from "../core/plan/index.ts";
import { readPlanText } from "../exchange/plan-text.ts";
import { canBuild, Lab } from "./lab.ts";
import { freeNet, Management, missingServers, stopIn, words } from "./management.ts";
import { portName } from "./names.ts";
import { isPart } from "./parts.ts";
import { tooMuch } from "./rehearsal/limits.ts";
import { withAgentProgram } from "./rehearsal/program.ts";
import { clearAbandoned, rehearsalPrefix, rehearse } from "./rehearsal/rehearse.ts";
import { rehearsalText } from "./rehearsal/text.ts";
import { run } from "./shell.ts";
import { type Showable, showable } from "./showable.ts";

/** Where labs that are up are remembered: gone at the next start of the machine, as they are. */
const HOME = process.env.IRON_FORK_LABS ?? "/run/iron-fork-labs";

/** What can be said in a sentence; the lab ends with 2. */
class LabError extends Error {}

interface LabState {
  readonly prefix: string;
  /** As it is written. */
  readonly plan: unknown;
  readonly net: number | null;
  /** The failed elements. */
  readonly failed: readonly string[];
}

const folderOf = (name: string) => `${HOME}/${name}`;
const prefixOf = (name: string) => `iflab-${name}`;

function kept(name: string): { lab: Lab; plan: Plan; shown: Showable; state: LabState } {
  const file = `${folderOf(name)}/lab.json`;
  if (!existsSync(file)) throw new LabError(`There is no lab "${name}". Build one: bin/lab up PLAN`);
  const state = JSON.parse(readFileSync(file, "utf8")) as LabState;
  const read = readPlan(state.plan);
  if (!read.ok) throw new LabError(`The lab "${name}" has changed; remove it: bin/lab down`);
  const shown = showable(read.plan);
  const lab = new Lab(shown.plan, state.prefix, shown.refs(state.failed), shown.tunnels);
  return { lab, plan: read.plan, shown, state };
}

const managed = (plan: Plan) =>
  plan.devices
    .filter(({ id, role, outline }) => role !== "host" && !outline && !isPart(id))
    .map(({ id }) => id);

async function up(file: string, { name, management: wanted }: { name: string; management?: boolean }) {
  if (!canBuild()) throw new LabError("A lab needs Linux, root, iproute2 and ping.");
  const servers = wanted ? missingServers() : [];
  if (servers.length > 0)
    throw new LabError(`--management needs ${servers.join(", ")}: apt-get install ${servers.join(" ")}`);
  const written = planIn(file);
  clear(name);
  const { plan, tunnels, leftOut: missing } = showable(written);
  const leftOut = [...missing];
  if (plan.devices.some(({ watches }) => watches.length > 0))
    leftOut.push("watches: they withdraw no routes here; agents of bin/lab run do");
  if (plan.devices.some(({ interfaces }) => interfaces.some((port) => port.virtual?.length)))
    leftOut.push("virtual routers: none is Active here; agents of bin/lab run are");
  if (tunnels.some(({ keepaliveMs }) => keepaliveMs > 0))
    leftOut.push("tunnel keepalives: not sent here; agents of bin/lab run send them");
  const lab = new Lab(plan, prefixOf(name), [], tunnels);
  const folder = folderOf(name);
  mkdirSync(folder, { recursive: true, mode: 0o755 });
  const net = wanted ? freeNet() : null;
  const state: LabState = { prefix: prefixOf(name), plan: written, net, failed: [] };
  writeFileSync(`${folder}/lab.json`, JSON.stringify(state), { mode: 0o600 });
  lab.build();
  console.log(`${plan.devices.length} devices and ${plan.links.length} links are up.`);
  for (const sentence of leftOut) console.log(`  not reproduced: ${sentence}`);
  for (const { id, interfaces } of plan.devices) {
    for (const { name: own } of interfaces)
      if (portName(own) !== own) console.log(`  ${id}: ${own} is called ${portName(own)}`);
  }
  if (lab.refused.size > 0)
    console.log(`  the kernel rejected ${lab.refused.size} routes: their next hops cannot be reached`);
  if (net !== null) await manage(new Management(lab, managed(plan), folder, net), plan, folder);
}

async function manage(management: Management, plan: Plan, folder: string) {
  await management.start({ snmp: true, ssh: true, neighbours: true }, true);
  console.log("Devices respond on the management network, only from this machine:");
  for (const device of managed(plan)) console.log(`  ${management.address(device).padEnd(16)} ${device}`);
  console.log(`SNMP v2c: ${words.community}`);
  console.log(`SNMP v3: ${words.user}, SHA-256 ${words.authWord}, AES ${words.privacyWord}`);
  console.log(`SSH: root, with the key ${folder}/reader-key`);
}

/** Takes away whatever there is of a lab, also what one that was killed left behind. */
function clear(name: string): number {
  const own = new RegExp(`^${prefixOf(name)}-`);
  const names = run("ip", ["netns", "list"])
    .stdout.split("\n")
    .map((line) => line.split(" ")[0])
    .filter((one) => own.test(one));
  for (const one of names) stopIn(one);
  const file = `${folderOf(name)}/lab.json`;
  if (existsSync(file)) {
    const { net } = JSON.parse(readFileSync(file, "utf8")) as LabState;
    if (net !== null) run("ip", ["link", "del", `ifm${net}`], true);
  }
  for (const one of names) run("ip", ["netns", "del", one], true);
  rmSync(folderOf(name), { recursive: true, force: true });
  return names.length;
}

interface RunOptions {
  outage?: string;
  fail: string[];
  down: string[];
  restoreAfter?: number;
  json?: boolean;
}

/** Rehearses an outage; exits with 1 if the observation differs from the prediction. */
async function rehearseIn(file: string, options: RunOptions) {
  if (!canBuild()) throw new LabError("A rehearsal needs Linux, root, iproute2 and ping.");
  const plan = planIn(file);
  const steps = stepsOf(plan, options);
  known(options.down, plan);
  const limit = tooMuch(plan, steps);
  if (limit) throw new LabError(`It cannot be rehearsed: ${limit}.`);
  clearAbandoned();
  const progress = (sentence: string) => console.error(`${sentence} …`);
  const found = await withAgentProgram((agent) =>
    rehearse(plan, steps, { agent, prefix: rehearsalPrefix(), down: options.down, progress }),
  );
  console.log(options.json ? JSON.stringify(found, null, 2) : rehearsalText(found));
  if (!found.agrees) process.exitCode = 1;
}

function stepsOf(plan: Plan, { outage, fail, restoreAfter }: RunOptions): Outage["steps"] {
  if (outage !== undefined) {
    const known = plan.outages.map(({ id }) => id).join(", ") || "none";
    const found = plan.outages.find(({ id }) => id === outage);
    if (!found) throw new LabError(`There is no outage ${outage}; the plan has ${known}.`);
    return found.steps;
  }
  if (fail.length === 0) throw new LabError("Choose the outage: --outage ID or --fail REF.");
  known(fail, plan);
  return [{ atMs: 0, fail }, ...(restoreAfter === undefined ? [] : [{ atMs: restoreAfter, restore: fail }])];
}

function known(refs: readonly string[], plan: Plan) {
  for (const ref of refs) {
    const wrong = missingElement(ref, plan);
    if (wrong) throw new LabError(`${ref}: ${wrong}`);
  }
}

function planIn(file: string): Plan {
  const read = readPlanText(readFileSync(file, "utf8"));
  if (!read.ok) throw new LabError(`${file}: ${read.errors.map(formatPlanError).join("; ")}`);
  return read.plan;
}

function set(ref: string, name: string, state: boolean) {
  const { lab, plan, shown, state: now } = kept(name);
  known([ref], plan);
  if (ref.startsWith("watch:"))
    throw new LabError("A watch cannot be failed; fail the element that it monitors.");
  for (const one of shown.refs([ref])) lab.set(one, state);
  const failed = state ? now.failed.filter((one) => one !== ref) : [...now.failed, ref];
  writeFileSync(`${folderOf(name)}/lab.json`, JSON.stringify({ ...now, failed }), { mode: 0o600 });
  console.log(`${ref} ${state ? "is restored" : "has failed"}.`);
}

const labName = (text: string) => {
  if (!/^[a-z0-9]{1,12}$/.test(text))
    throw new InvalidArgumentError("Use 1 to 12 lower-case letters and digits.");
  return text;
};

const milliseconds = (text: string) => {
  if (!/^\d{1,8}$/.test(text)) throw new InvalidArgumentError("must be whole milliseconds");
  return Number(text);
};

/** The start of the sentence that explains a lab's failure. */
const FAILED = "The lab failed: ";

async function main() {
  const program = new Command("lab").description(
    "Builds the network of a plan on this machine from network namespaces. No traffic leaves the machine.",
  );
  const name = ["--name <name>", "name of the lab, if several are up", labName, "lab"] as const;
  program
    .command("up <plan>")
    .description("builds the network of a plan file; a lab of the same name is removed first")
    .option(...name)
    .option("--management", "start an SNMP agent and an SSH server in every router and firewall")
    .action(up);
  program
    .command("fail <ref>")
    .description("fails link:ID, device:ID or interface:DEVICE/NAME")
    .option(...name)
    .action((ref: string, options: { name: string }) => set(ref, options.name, false));
  program
    .command("restore <ref>")
    .description("restores the element")
    .option(...name)
    .action((ref: string, options: { name: string }) => set(ref, options.name, true));
  program
    .command("run <plan>")
    .description("rehearses an outage: sends every flow, runs the outage and compares with the prediction")
    .option("--outage <id>", "an outage of the plan")
    .option(
      "--fail <ref>",
      "element that fails, if no outage is chosen",
      (ref: string, all: string[]) => [...all, ref],
      [],
    )
    .option(
      "--down <ref>",
      "element that is already failed",
      (ref: string, all: string[]) => [...all, ref],
      [],
    )
    .option("--restore-after <ms>", "time until restored, in milliseconds", milliseconds)
    .option("--json", "print the result as JSON")
    .action(rehearseIn);
  program
    .command("down")
    .description("removes the lab")
    .option(...name)
    .option("--all", "every lab on this machine")
    .action(({ name: one, all }: { name: string; all?: boolean }) => {
      const names = all ? (existsSync(HOME) ? readdirSync(HOME) : []) : [one];
      const count = names.reduce((sum, each) => sum + clear(each), 0);
      console.log(count > 0 ? `${count} namespaces removed.` : "No lab to remove.");
    });
  try {
    await program.parseAsync();
  } catch (error) {
    console.error(
      error instanceof LabError
        ? error.message
        : `${FAILED}${error instanceof Error ? error.message : String(error)}`,
    );
    process.exitCode = 2;
  }
}

await main();
