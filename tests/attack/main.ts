import { Command } from "commander";
import { demoPlan } from "../support/plans.ts";
import { Random } from "../support/random.ts";
import { type Attack, attacks, type World } from "./attacks.ts";
import { Instance } from "./instance.ts";
import { isolation } from "./isolation.ts";
import { Issuer } from "./issuer.ts";

/** Tries every hole that was found once, on a fresh instance with accounts. Run by bin/attack. */
async function main() {
  const {
    seconds,
    seed,
    only,
    isolation: large,
  } = new Command("attack")
    .description("Tries every hole that was found once, on a fresh instance with accounts.")
    .option("--seconds <n>", "how long what can go on goes on", Number, 2)
    .option("--seed <n>", "the seed of all chance", Number, Date.now() % 2 ** 31)
    .option("--only <item>", "the attacks of one point alone")
    .option(
      "--isolation [devices]",
      "how much one editor's attacks, and a large plan of theirs, slow another's pages",
    )
    .parse()
    .opts<{ seconds: number; seed: number; only?: string; isolation?: string | true }>();
  const {
    DATABASE_SUPERUSER_URL: superuser = "",
    DATABASE_OWNER_URL: owner = "",
    DATABASE_URL: data = "",
  } = process.env;
  const instance = new Instance({ superuser, owner, data });
  const issuer = new Issuer();
  console.log(`  attacks from seed ${seed} (again: bin/attack --seed ${seed})`);
  let [passed, failed] = [0, 0];
  try {
    const world = await worldOf(instance, issuer, new Random(seed), seconds * 1000);
    if (large !== undefined) {
      const held = await isolation(world, large === true ? 1000 : Number(large));
      if (held) passed++;
      else failed++;
      return;
    }
    const chosen = attacks.filter(({ item }) => only === undefined || item.split(", ").includes(only));
    const tryOne = async (attack: Attack) => {
      const started = performance.now();
      const outcome = await attack.run(world).then(
        () => null,
        (error: unknown) => (error instanceof Error ? (error.stack ?? error.message) : String(error)),
      );
      if (outcome === null) passed++;
      else failed++;
      const s = ((performance.now() - started) / 1000).toFixed(1);
      console.log(`  ${outcome === null ? "held" : "HOLE"}  ${attack.item}: ${attack.what} (${s} s)`);
      if (outcome !== null) console.log(`        ${outcome.slice(0, 1500)}`);
    };
    const waiting = Promise.all(chosen.filter(({ waits }) => waits).map(tryOne));
    for (const attack of chosen.filter(({ waits }) => !waits)) await tryOne(attack);
    await waiting;
  } finally {
    issuer.stop();
    await instance.end();
    console.log(`${passed} passed, ${failed} failed`);
    process.exitCode = failed === 0 && passed > 0 ? 0 : 1;
  }
}

async function worldOf(instance: Instance, issuer: Issuer, random: Random, budgetMs: number): Promise<World> {
  await instance.prepare();
  await issuer.start();
  // First without accounts, to create an anonymous token.
  const alone = await instance.serve();
  const made = await instance.form("/account.data", {
    do: "token",
    name: "early",
    role: "administers",
    days: "30",
    plan: "",
  });
  const early = /ironfork_[\w-]{43}/.exec(made.text)?.[0] ?? "";
  if (early === "") throw new Error(`no token was made: ${made.status} ${made.text.slice(0, 300)}`);
  await instance.stop(alone);
  const link = instance.run("server/access/account-command.ts", "admin");
  await instance.serve({
    IRON_FORK_OIDC_ISSUER: issuer.url,
    IRON_FORK_OIDC_CLIENT_ID: "attack",
    IRON_FORK_OIDC_CLIENT_SECRET: "not a secret",
  });
  instance.start("build/worker/main.js");
  const admin = await instance.take(link, "admin");
  const [ed, bo, reader, guest] = [
    await instance.invite(admin, "ed", "approves"),
    await instance.invite(admin, "bo", "approves"),
    await instance.invite(admin, "reader", "reads"),
    await instance.invite(admin, "guest", "none"),
  ];
  const plan = await instance.newPlan(admin, demoPlan("three-routers"));
  const other = await instance.newPlan(admin, demoPlan("marrow-bay"));
  const [{ id }] = await instance.query<{ id: string }>("select id from account where name = 'guest'");
  await instance.form("/accounts.data", { do: "plan role", account: id, plan, role: "edits" }, { as: admin });
  return { random, instance, issuer, admin, ed, bo, reader, guest, plan, other, early, budgetMs };
}

await main();
