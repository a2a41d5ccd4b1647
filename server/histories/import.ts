import { randomUUID } from "node:crypto";
import { readdir, readFile } from "node:fs/promises";
import { join } from "node:path";
import type pg from "pg";
import type { z } from "zod";
import {
  applyEdit,
  type Edit,
  errorsOfIssues,
  formatPlanError,
  type Plan,
  sameValue,
} from "../../core/plan/index.ts";
import { readPlanText } from "../../exchange/plan-text.ts";
import { type AdministeredPlan, ownPlan } from "../access/grants.ts";
import { insertPlan, insertRevision } from "../plans.ts";
import { transaction } from "../pool.ts";
import { indexRoutes } from "../route-index.ts";
import {
  HISTORY_FILE,
  type HistoryLine,
  historyLineSchema,
  PLAN_FILE,
  type PlanFile,
  planFileSchema,
  revisionFile,
} from "./format.ts";
import { sql } from "./sql.ts";

/** An imported plan. */
export interface ImportedPlan {
  readonly id: AdministeredPlan;
  readonly name: string;
  readonly revisions: number;
}

/** Imports plans with their histories from a folder of `writeHistories`, or from that of one plan: each becomes a new
 * plan. Either all are imported or none: throws with the file and the reason. */
export async function importHistories(folder: string): Promise<ImportedPlan[]> {
  const entries = await readdir(folder, { withFileTypes: true });
  const within = entries.filter((entry) => entry.isDirectory()).map(({ name }) => name);
  const folders = entries.some(({ name }) => name === PLAN_FILE)
    ? [folder]
    : within.sort((a, b) => a.localeCompare(b, "en", { numeric: true })).map((name) => join(folder, name));
  if (folders.length === 0)
    throw new Error(`${folder} holds no plan: neither ${PLAN_FILE} nor folders with one`);
  return transaction(async (client) => {
    const taken: ImportedPlan[] = [];
    for (const one of folders) taken.push(await takePlan(client, one));
    return taken;
  });
}

async function takePlan(client: pg.PoolClient, folder: string): Promise<ImportedPlan> {
  const file = join(folder, PLAN_FILE);
  const head = checked(planFileSchema, await readText(file), file);
  const lines = await readHistory(folder, head);
  if (head.approved > head.revisions)
    throw new Error(
      `${file}: approved: there is no revision ${head.approved}; the last is ${head.revisions}`,
    );
  const id = await insertPlan(client, head.name);
  // Belongs to no browser, so imported edits cannot be undone.
  const session = randomUUID();
  let plan: Plan | null = null;
  for (const line of lines) {
    const before: Plan | null = plan;
    plan = await readRevision(join(folder, revisionFile(line.number)));
    if (before && line.edit && !follows(before, line.edit, plan))
      throw new Error(
        `${join(folder, HISTORY_FILE)}, line ${line.number}: edit: ${revisionFile(line.number)} does not follow from it`,
      );
    const { madeAt, author, ...made } = line;
    await insertRevision(client, id, { ...made, plan, author: { session, name: author }, madeAt });
  }
  const last = lines[lines.length - 1];
  const name = plan?.name ?? head.name;
  await client.query(sql.settlePlan, [
    id,
    name,
    last.number,
    head.approved,
    head.fourEyes,
    head.madeAt,
    last.madeAt,
  ]);
  if (plan) await indexRoutes(client, id, plan);
  return { id: ownPlan(id), name, revisions: last.number };
}

/** Whether an edit makes the second document of the first: who made what, four eyes depend on. */
function follows(before: Plan, edit: Edit, after: Plan): boolean {
  const outcome = applyEdit(before, edit);
  return outcome.ok && sameValue(outcome.plan, after);
}

/** The lines of a history: revisions from 1 on, as many as the plan says. */
async function readHistory(folder: string, { revisions }: PlanFile): Promise<HistoryLine[]> {
  const file = join(folder, HISTORY_FILE);
  const texts = (await readText(file)).split("\n").filter((line) => line.trim() !== "");
  const lines = texts.map((text, n) => checked(historyLineSchema, text, `${file}, line ${n + 1}`));
  const wrong = lines.findIndex(({ number }, n) => number !== n + 1);
  if (wrong >= 0)
    throw new Error(
      `${file}, line ${wrong + 1}: number: this is revision ${wrong + 1}, not ${lines[wrong].number}`,
    );
  if (lines.length !== revisions)
    throw new Error(`${file}: there are ${lines.length} revisions, and ${PLAN_FILE} lists ${revisions}`);
  return lines;
}

async function readRevision(file: string): Promise<Plan> {
  const reading = readPlanText(await readText(file));
  if (!reading.ok) throw new Error(`${file}: ${reading.errors.map(formatPlanError).join("; ")}`);
  return reading.plan;
}

async function readText(file: string): Promise<string> {
  try {
    return await readFile(file, "utf8");
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === "ENOENT") throw new Error(`${file} is missing`);
    throw error;
  }
}

function checked<T>(schema: z.ZodType<T>, text: string, where: string): T {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    throw new Error(`${where}: this is not valid JSON`);
  }
  const { success, data, error } = schema.safeParse(value);
  if (success) return data;
  throw new Error(`${where}: ${errorsOfIssues(error.issues).map(formatPlanError).join("; ")}`);
}
