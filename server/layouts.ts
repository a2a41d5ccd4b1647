import type { EditablePlan, ReadablePlan } from "./access/grants.ts";
import { database, write } from "./pool.ts";

const sql = {
  /** plan */
  layouts: `select id::text, name, document, author, kept_at as "keptAt" from layout where plan = $1 order by name`,
  /** plan, name, document, author */
  keepLayout: `
    insert into layout (plan, name, document, author) values ($1, $2, $3, $4)
    on conflict (plan, name) do update set document = excluded.document, author = excluded.author, kept_at = now()`,
  /** plan, layout */
  forgetLayout: "delete from layout where plan = $1 and id = $2::bigint",
} as const;

/** A layout of text tables as a plan keeps it. */
export interface LayoutRow {
  readonly id: string;
  readonly name: string;
  readonly document: unknown;
  readonly author: string;
  readonly keptAt: Date;
}

export async function keptLayouts(plan: ReadablePlan): Promise<LayoutRow[]> {
  return (await database().query<LayoutRow & Record<string, unknown>>(sql.layouts, [plan])).rows;
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
