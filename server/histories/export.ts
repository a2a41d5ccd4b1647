import { mkdir, open, rename, rm, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { idOf } from "../../core/plan/index.ts";
import { writePlanText } from "../../exchange/plan-text.ts";
import type { ReadablePlan } from "../access/grants.ts";
import { documentOf, historyOf } from "../plans.ts";
import { database } from "../pool.ts";
import { HISTORY_FILE, PLAN_FILE, type PlanFile, REVISIONS_FOLDER, revisionFile } from "./format.ts";
import { sql } from "./sql.ts";

interface Row extends Omit<PlanFile, "what" | "version" | "madeAt"> {
  readonly id: ReadablePlan;
  readonly madeAt: Date;
}

/**
 * Writes every plan that is not deleted with its history into a folder that is not there yet, each into a folder of its
 * own; gives how many plans and revisions. Where it fails the folder is not there. Throws where the folder is there.
 */
export async function writeHistories(folder: string): Promise<{ plans: number; revisions: number }> {
  const part = `${folder}.part`;
  await mkdir(part);
  try {
    const { rows } = await database().query<Row>(sql.plans);
    let revisions = 0;
    for (const row of rows) {
      await writePlan(join(part, folderName(row)), row);
      revisions += row.revisions;
    }
    // A folder that came meanwhile is not written over.
    await rename(part, folder);
    return { plans: rows.length, revisions };
  } catch (error) {
    await rm(part, { recursive: true, force: true });
    throw error;
  }
}

/** A file name from the plan's number and name. */
function folderName({ id, name }: Row): string {
  const called = idOf(name);
  return called === "" ? id : `${id}-${called}`;
}

async function writePlan(folder: string, { id, madeAt, ...plan }: Row) {
  await mkdir(join(folder, REVISIONS_FOLDER), { recursive: true });
  const head: PlanFile = {
    what: "iron-fork plan with history",
    version: 1,
    ...plan,
    madeAt: madeAt.toISOString(),
  };
  await writeFile(join(folder, PLAN_FILE), `${JSON.stringify(head, null, 2)}\n`);
  const lines = await open(join(folder, HISTORY_FILE), "w");
  try {
    const history = await historyOf(id, plan.revisions, plan.revisions + 1);
    for (const row of history.toReversed()) {
      const document = await documentOf(id, row.number);
      if (!document) throw new Error(`plan ${id} has no revision ${row.number}; it was deleted meanwhile`);
      await writeFile(join(folder, revisionFile(row.number)), writePlanText(document, "yaml"));
      await lines.write(`${JSON.stringify({ ...row, madeAt: row.madeAt.toISOString() })}\n`);
    }
  } finally {
    await lines.close();
  }
}
