import type pg from "pg";
import { isPlanId } from "../plans.ts";
import { database } from "../pool.ts";
import { sql } from "./sql.ts";

/** Words of the users' own for the devices of a profile. */
export interface KeptTemplate {
  readonly profile: string;
  readonly source: string;
  readonly author: string;
  readonly keptAt: Date;
}

export async function templatesOf(plan: string): Promise<KeptTemplate[]> {
  if (!isPlanId(plan)) return [];
  return (await database().query<KeptTemplate & pg.QueryResultRow>(sql.templates, [plan])).rows;
}

/** Keeps a template; an empty one is taken away. */
export async function keepTemplate(
  plan: string,
  profile: string,
  source: string,
  author: string,
): Promise<void> {
  if (!isPlanId(plan)) return;
  if (source.trim() === "") await database().query(sql.dropTemplate, [plan, profile]);
  else await database().query(sql.keepTemplate, [plan, profile, source, author]);
}
