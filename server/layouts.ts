import type { EditablePlan, ReadablePlan } from "./access/grants.ts";
import { database, write } from "./pool.ts";
import { sql } from "./sql.ts";

/** A layout of text tables as a plan keeps it. */
export interface KeptLayout {
  readonly id: string;
  readonly name: string;
  readonly document: unknown;
  readonly author: string;
  readonly keptAt: Date;
}

export async function keptLayouts(plan: ReadablePlan): Promise<KeptLayout[]> {
  return (await database().query<KeptLayout & Record<string, unknown>>(sql.layouts, [plan])).rows;
}

/** Keeps a layout under its name; one of the same name is replaced. */
export async function keepLayout(
  plan: EditablePlan,
  name: string,
  document: unknown,
  author: string,
): Promise<void> {
  await write(sql.keepLayout, [plan, name, JSON.stringify(document), author]);
}

export async function forgetLayout(plan: EditablePlan, id: string): Promise<void> {
  await write(sql.forgetLayout, [plan, id]);
}
