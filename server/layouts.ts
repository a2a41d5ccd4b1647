import { database } from "./pool.ts";
import { sql } from "./sql.ts";

/** A layout of text tables as the workspace keeps it. */
export interface KeptLayout {
  readonly id: string;
  readonly name: string;
  readonly document: unknown;
  readonly author: string;
  readonly keptAt: Date;
}

export async function keptLayouts(): Promise<KeptLayout[]> {
  return (await database().query<KeptLayout & Record<string, unknown>>(sql.layouts)).rows;
}

/** Keeps a layout under its name; one of the same name is replaced. */
export async function keepLayout(name: string, document: unknown, author: string): Promise<void> {
  await database().query(sql.keepLayout, [name, JSON.stringify(document), author]);
}

export async function forgetLayout(id: string): Promise<void> {
  await database().query(sql.forgetLayout, [id]);
}
