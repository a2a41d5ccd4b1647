import type pg from "pg";
import { isWellFormed } from "../../core/plan/index.ts";
import { database, transaction, write } from "../pool.ts";
import { isConfusable } from "./confusable-names.ts";
import type { Administration } from "./grants.ts";
import { hashPassword, isPassword, weaknessOf } from "./passwords.ts";
import type { Role } from "./roles.ts";
import { digestOf, freshSecret } from "./secrets.ts";
import { endOtherSignIns } from "./sign-ins.ts";
import { sql } from "./sql.ts";

/** Validity of a one-time link in hours. */
const LINK_HOURS = 72;

export interface AccountRow {
  readonly id: string;
  readonly name: string;
  readonly role: Role;
  readonly disabledAt: Date | null;
  readonly madeAt: Date;
  readonly hasPassword: boolean;
  readonly byProvider: boolean;
  readonly passkeys: number;
  readonly seenAt: Date | null;
  /** Roles in single plans, by their numbers. */
  readonly plans: Readonly<Record<string, Role>>;
}

export interface Account {
  readonly id: string;
  readonly name: string;
  readonly role: Role;
  readonly password: string | null;
  readonly disabledAt: Date | null;
  readonly issuer: string | null;
}

export type Outcome<T = unknown> = ({ ok: true } & T) | { ok: false; error: string };

const refused = (error: string): { ok: false; error: string } => ({ ok: false, error });

let known = false;

/** Whether there are accounts. Once there is one, there is always one: the last administrator stays. */
export async function hasAccounts(): Promise<boolean> {
  if (known) return true;
  const { rows } = await database().query<{ there: boolean }>(sql.anyAccount);
  known = rows[0].there;
  return known;
}

export async function listAccounts(_by: Administration): Promise<AccountRow[]> {
  return (await database().query<AccountRow & pg.QueryResultRow>(sql.accounts)).rows;
}

export async function accountOf(id: string): Promise<Account | null> {
  return (await database().query<Account & pg.QueryResultRow>(sql.account, [id])).rows[0] ?? null;
}

/** Creates an account without any sign-in method, and the secret of the one-time link for its owner. The first account
 * ends anonymous use: existing tokens are revoked. */
export async function inviteAccount(
  _by: Administration,
  name: string,
  role: Role,
  by: string,
): Promise<Outcome<{ secret: string; revoked: number }>> {
  const plain = name.trim();
  if (!isName(plain)) return refused("A name has 1 to 60 characters.");
  return transaction(async (client) => {
    await client.query(sql.lockAccounts);
    const twin = await twinOf(client, plain);
    if (twin !== null)
      return refused(`The name "${plain}" looks like the account "${twin}". Choose another.`);
    const revoked = (await client.query<{ id: string }>(sql.revokeOwnerless)).rowCount ?? 0;
    const { rows } = await client.query<{ id: string }>(sql.insertAccount, [plain, role]);
    return { ok: true, secret: await putLink(client, rows[0].id, by), revoked };
  });
}

/** The name of an account that a person could take for this one; null if there is none. */
export async function twinOf(client: pg.PoolClient, name: string): Promise<string | null> {
  const { rows } = await client.query<{ name: string }>(sql.accountNames);
  return rows.find((row) => isConfusable(row.name, name))?.name ?? null;
}

/** Another one-time link to an account, in place of any before. */
export function linkFor(_by: Administration, account: string, by: string): Promise<string | null> {
  return transaction(async (client) => {
    const { rows } = await client.query(sql.account, [account]);
    return rows.length === 0 ? null : putLink(client, account, by);
  });
}

async function putLink(client: pg.PoolClient, account: string, by: string): Promise<string> {
  const secret = freshSecret();
  await client.query(sql.dropInvitations, [account]);
  await client.query(sql.invite, [digestOf(secret), account, by]);
  return secret;
}

/** The account of a one-time link; null if it is used, expired or unknown. */
export async function invitedTo(secret: string): Promise<{ account: string; name: string } | null> {
  const { rows } = await database().query<{ account: string; name: string }>(sql.invitation, [
    digestOf(secret),
    LINK_HOURS,
  ]);
  return rows[0] ?? null;
}

/** Uses a one-time link: sets the account's password and ends its other sign-ins. */
export async function takeInvitation(
  secret: string,
  password: string,
): Promise<Outcome<{ account: string }>> {
  const invited = await invitedTo(secret);
  if (!invited) return refused("This link has been used or has expired. Ask for a new one.");
  const weakness = await weaknessOf(password, invited.name);
  if (weakness) return refused(weakness);
  const hashed = await hashPassword(password);
  const account = await transaction(async (client) => {
    const { rows } = await client.query<{ account: string }>(sql.useInvitation, [
      digestOf(secret),
      LINK_HOURS,
    ]);
    if (!rows[0]) return null;
    await client.query(sql.setPassword, [rows[0].account, hashed]);
    return rows[0].account;
  });
  if (!account) return refused("This link has been used or has expired. Ask for a new one.");
  await endOtherSignIns(account, null);
  return { ok: true, account };
}

/** The account whose name and password these are; null for all else, whatever it is. */
export async function accountByPassword(name: string, password: string): Promise<Account | null> {
  const { rows } = await database().query<Account & pg.QueryResultRow>(sql.accountByName, [name.trim()]);
  const [account] = rows;
  const right = await isPassword(account?.password ?? null, password);
  return right && account && account.disabledAt === null ? account : null;
}

/** Changes an account's own password; all its other browsers are signed out. */
export async function changePassword(
  id: string,
  old: string,
  fresh: string,
  signedIn: string | null,
): Promise<Outcome> {
  const account = await accountOf(id);
  if (!account) return refused("There is no such account.");
  if (account.password !== null && !(await isPassword(account.password, old)))
    return refused("The current password is wrong.");
  const weakness = await weaknessOf(fresh, account.name);
  if (weakness) return refused(weakness);
  await write(sql.setPassword, [id, await hashPassword(fresh)]);
  await endOtherSignIns(id, signedIn);
  return { ok: true };
}

/** Gives an account another role, or lets it sign in no more; the last administrator stays one. */
export async function changeAccount(
  _by: Administration,
  id: string,
  change: { role: Role } | { disabled: boolean },
): Promise<Outcome> {
  return transaction(async (client) => {
    await client.query(sql.lockAccounts);
    const loses = "role" in change ? change.role !== "administers" : change.disabled;
    if (loses) {
      const own = await client.query<{ role: Role }>(sql.account, [id]);
      const { rows } = await client.query<{ count: number }>(sql.otherAdministrators, [id]);
      if (own.rows[0]?.role === "administers" && rows[0].count === 0)
        return refused("This is the last administrator. Add another one first.");
    }
    if ("role" in change) await client.query(sql.setRole, [id, change.role]);
    else await client.query(sql.setDisabled, [id, change.disabled]);
    // Ends existing sign-ins, so that the new role applies.
    await client.query(sql.endSignIns, [id, null]);
    return { ok: true };
  });
}

/** Sets an account's role in one plan; null restores its general role. */
export async function setPlanRole(
  _by: Administration,
  plan: string,
  account: string,
  role: Role | null,
): Promise<Outcome> {
  if (role === null) {
    await write(sql.dropPlanRole, [plan, account]);
    return { ok: true };
  }
  const { rowCount } = await write(sql.setPlanRole, [plan, account, role]);
  return rowCount === 0 ? refused("There is no such plan or account.") : { ok: true };
}

function isName(text: string): boolean {
  return text.length >= 1 && text.length <= 60 && isWellFormed(text) && !/\p{Cc}/u.test(text);
}
