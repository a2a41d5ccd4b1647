import { execFileSync, spawnSync } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import pg from "pg";
import { afterAll, describe, expect, it } from "vitest";

const root = fileURLToPath(new URL("../", import.meta.url));

/** Every row of every table of the application, as text, in an order that does not depend on where it lies. */
async function everything(url: string): Promise<Record<string, string[]>> {
  const client = new pg.Client(url);
  await client.connect();
  const tables = await client.query(
    "select tablename from pg_tables where schemaname = 'iron_fork' order by 1",
  );
  const all: Record<string, string[]> = {};
  for (const { tablename } of tables.rows) {
    const { rows } = await client.query(`select t::text as row from iron_fork."${tablename}" t`);
    all[tablename] = rows.map(({ row }) => String(row)).sort();
  }
  await client.end();
  return all;
}

describe.skipIf(!process.env.DATABASE_URL)("backup and restore", () => {
  const given = process.env.DATABASE_URL as string;
  const urlOf = (name: string) => given.replace(/\/[^/]*$/, `/${name}`);
  const folder = mkdtempSync(join(tmpdir(), "iron-fork-backup-"));
  const names = [`backup_from_${process.pid}`, `backup_to_${process.pid}`];
  const admin = async (statement: string) => {
    const client = new pg.Client(given);
    await client.connect();
    await client.query(statement);
    await client.end();
  };
  /** From a user's own folder: relative paths refer to it. */
  const run = (command: string, args: string[], database: string) =>
    spawnSync("bash", [join(root, command), ...args], {
      cwd: folder,
      env: { ...process.env, DATABASE_URL: urlOf(database) },
      encoding: "utf8",
    });

  afterAll(async () => {
    for (const name of names) await admin(`drop database if exists ${name}`);
    rmSync(folder, { recursive: true, force: true });
  });

  it("puts back everything, refuses where plans are there, and takes no damaged file", async () => {
    const [from, to] = names;
    for (const name of names) await admin(`create database ${name}`);
    execFileSync("node", ["--import", "tsx", "server/prepare.ts"], {
      cwd: root,
      env: { ...process.env, DATABASE_URL: urlOf(from) },
    });
    const before = await everything(urlOf(from));
    expect(before.plan).toHaveLength(3);

    const written = run("bin/backup", ["all.tar"], from);
    expect(written.stderr + written.stdout).toContain("3 plans with 4 revisions");
    expect(run("bin/backup", ["all.tar"], from).status).toBe(1);

    const restored = run("bin/restore", ["all.tar"], to);
    expect(restored.status, restored.stderr).toBe(0);
    expect(await everything(urlOf(to))).toEqual(before);

    const again = run("bin/restore", ["all.tar"], to);
    expect(again.status).toBe(1);
    expect(again.stderr).toContain("--replace");
    expect(run("bin/restore", ["all.tar", "--replace"], to).status).toBe(0);
    expect(await everything(urlOf(to))).toEqual(before);

    execFileSync("bash", [
      "-c",
      `cd ${folder} && tar -xf all.tar && head -c 2000 database.dump > d && mv d database.dump && tar -cf bad.tar manifest.json database.dump`,
    ]);
    const bad = run("bin/restore", ["bad.tar", "--replace"], to);
    expect(bad.status).toBe(1);
    expect(bad.stderr).toContain("damaged");
    expect(await everything(urlOf(to))).toEqual(before);
  }, 90_000);

  it("plans go out with their histories, and come in beside those that are there", async () => {
    const [from] = names;
    const exported = run("bin/plans", ["export", "plans"], from);
    expect(exported.stdout, exported.stderr).toContain(
      `3 plans with 4 revisions, in ${join(folder, "plans")}`,
    );
    const again = run("bin/plans", ["export", "plans"], from);
    expect([again.status, again.stderr.trim()]).toEqual([
      1,
      `${join(folder, "plans")} is there already. Name a folder that is not, or move it away.`,
    ]);
    const imported = run("bin/plans", ["import", "plans"], from);
    expect(imported.stdout.match(/^Taken: .+, as plan [4-6], with [12] revisions\.$/gm)).toHaveLength(3);
    expect((await everything(urlOf(from))).revision).toHaveLength(8);
    const none = run("bin/plans", ["import", "nowhere"], from);
    expect([none.status, none.stderr.trim()]).toEqual([1, `There is no folder ${join(folder, "nowhere")}.`]);
    expect(run("bin/plans", ["exprot", "plans"], from).status).toBe(2);
  }, 60_000);
});
