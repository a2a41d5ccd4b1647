import type pg from "pg";

/** The role that the web server and the workers sign in as, where `db/roles.sql` has made it. */
const DATA_ROLE = "iron_fork_data";

/**
 * Gives the application's role the right to read and write rows in a schema, and no other. Rows of the audit log are
 * only ever added. Without the role, everything is done as the role that owns the tables.
 */
export async function grantDataRights(
  client: { query(text: string, values?: unknown[]): Promise<pg.QueryResult> },
  schema: string,
): Promise<void> {
  const { rows } = await client.query("select from pg_roles where rolname = $1 and rolname <> current_user", [
    DATA_ROLE,
  ]);
  if (rows.length === 0) return;
  await client.query(`
    grant usage on schema ${schema} to ${DATA_ROLE};
    grant select, insert, update, delete on all tables in schema ${schema} to ${DATA_ROLE};
    grant usage, select on all sequences in schema ${schema} to ${DATA_ROLE};
    do $$ begin
      if to_regclass('${schema}.record') is not null then
        revoke update, delete on ${schema}.record from ${DATA_ROLE};
      end if;
      if to_regclass('${schema}.migration') is not null then
        revoke insert, update, delete on ${schema}.migration from ${DATA_ROLE};
      end if;
    end $$`);
}
