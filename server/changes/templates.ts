import type pg from "pg";
import type { EditablePlan, ReadablePlan } from "../access/grants.ts";
import { database, write } from "../pool.ts";
import { sql } from "./sql.ts";

/** Words of the users' own for the devices of a profile. */
export interface TemplateRow {
  readonly profile: string;
  readonly source: string;
  readonly author: string;
  readonly keptAt: Date;
}

export async function templatesOf(plan: ReadablePlan): Promise<TemplateRow[]> {
  return (await database().query<TemplateRow & pg.QueryResultRow>(sql.templates, [plan])).rows;
}

/** Keeps a template; an empty one is taken away. */
export async function keepTemplate(
  plan: EditablePlan,
  profile: string,
  source: string,
  author: string,
): Promise<void> {
  if (source.trim() === "") await write(sql.dropTemplate, [plan, profile]);
  else await write(sql.keepTemplate, [plan, profile, source, author]);
}
