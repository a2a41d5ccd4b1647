import { isAllowed, type Secret, type Way } from "../../live/target.ts";
import type { AdministeredPlan, EditablePlan, ReadablePlan } from "../access/grants.ts";
import { database, write } from "../pool.ts";
import { allowedPrefixes } from "./allowed.ts";
import { seal } from "./seal.ts";

const sql = {
  /** plan id */
  credentials: `
    select c.id::text, c.name, c.way, c.prefixes::text[] as prefixes, c.made_at as "madeAt", c.author, count(t.id)::int as used
    from credential c left join target t on t.credential = c.id where c.plan = $1 group by c.id order by c.name`,
  /** plan id, name, way, sealed, author, prefixes: not where devices of another way use that name */
  keepCredential: `
    insert into credential (plan, name, way, sealed, author, prefixes) values ($1, $2, $3, $4, $5, $6::cidr[])
    on conflict (plan, name) do update
      set way = excluded.way, sealed = excluded.sealed, author = excluded.author, prefixes = excluded.prefixes,
          made_at = now()
      where credential.way = excluded.way or not exists (select from target t where t.credential = credential.id)`,
  /** plan id, credential: not while a target uses it */
  forgetCredential: `
    delete from credential c where c.plan = $1 and c.id = $2::bigint
      and not exists (select from target t where t.credential = c.id)`,
  /** plan id: with the last run, and when each was read */
  targets: `
    select t.id::text, t.device, host(t.address) as address, t.port, t.way, t.credential::text,
           t.every_minutes as "everyMinutes", t.proof is not null as known, t.offered_proof as offered,
           case when r.id is null then null else json_build_object(
             'id', r.id::text, 'state', r.state, 'askedAt', r.asked_at, 'endedAt', r.ended_at, 'told', r.told,
             'differences', r.differences, 'lines', r.lines) end as run,
           l.ended_at as "lastReadAt",
           t.every_minutes is not null
             and coalesce(l.ended_at, '-infinity') < now() - (t.every_minutes * interval '1 minute' + interval '2 minutes')
             as stale
    from target t
      left join lateral (select * from reading_run where target = t.id order by id desc limit 1) r on true
      left join lateral (
        select ended_at from reading_run where target = t.id and state = 'read' order by id desc limit 1) l on true
    where t.plan = $1 and t.trial = $2 order by t.device`,
  /** plan, device, address, port, way, credential, minutes, trial: a trial never replaces a device that is polled */
  keepTarget: `
    insert into target (plan, device, address, port, way, credential, every_minutes, trial)
      values ($1, $2, $3, $4, $5, $6, $7, $8)
    on conflict (plan, device) do update
      set trial = excluded.trial, made_at = now(), address = excluded.address, port = excluded.port, way = excluded.way, credential = excluded.credential,
          every_minutes = excluded.every_minutes,
          proof = case when target.address = excluded.address and target.port = excluded.port then target.proof end,
          offered_proof = case when target.address = excluded.address and target.port = excluded.port then target.offered_proof end
      where target.trial or not excluded.trial
    returning id::text`,
  /** plan, target */
  dropTarget: "delete from target where plan = $1 and id = $2::bigint",
  /** plan, target */
  forgetProof: "update target set proof = null, offered_proof = null where plan = $1 and id = $2::bigint",
  /** plan, target, the key as the page showed it: no other is confirmed */
  confirmProof: `
    update target set proof = offered_proof, offered_proof = null
    where plan = $1 and id = $2::bigint and offered_proof = $3`,
} as const;

/** A credential without its secret parts. */
export interface Credential {
  readonly id: string;
  readonly name: string;
  readonly way: Way;
  readonly madeAt: Date;
  readonly author: string;
  /** Addresses that it may be sent to. */
  readonly prefixes: readonly string[];
  /** Targets that use it. */
  readonly used: number;
}

/** A device that is read, with its last reading. */
export interface TargetRow {
  readonly id: string;
  readonly device: string;
  readonly address: string;
  readonly port: number;
  readonly way: Way;
  readonly credential: string;
  readonly everyMinutes: number | null;
  /** Whether its host key or certificate is confirmed. */
  readonly known: boolean;
  /** The host key presented at first contact, to be confirmed by an administrator; null without one. */
  readonly offered: string | null;
  readonly run: {
    readonly id: string;
    readonly state: "waiting" | "reading" | "read" | "failed" | "cancelled";
    readonly askedAt: Date;
    readonly endedAt: Date | null;
    readonly told: string;
    readonly differences: number | null;
    readonly lines: number | null;
  } | null;
  readonly lastReadAt: Date | null;
  /** Whether the last reading is older than wished. */
  readonly stale: boolean;
}

export async function credentialsOf(plan: ReadablePlan): Promise<Credential[]> {
  return (await database().query<Credential>(sql.credentials, [plan])).rows;
}

/** The devices that are polled. */
export async function targetsOf(plan: ReadablePlan): Promise<TargetRow[]> {
  return (await database().query<TargetRow>(sql.targets, [plan, false])).rows;
}

/** The devices that are tested before they are saved. */
export async function trialsOf(plan: ReadablePlan): Promise<TargetRow[]> {
  return (await database().query<TargetRow>(sql.targets, [plan, true])).rows;
}

/** What went wrong, at the field that it is about. */
export type FieldErrors = Readonly<Record<string, string>>;

const place = (plan: string, name: string) => `${plan} ${name}`;

/** Keeps a credential, encrypted, for addresses in some prefixes alone; one of the same name is replaced. */
export async function keepCredential(
  plan: AdministeredPlan,
  name: string,
  secret: Secret,
  prefixes: readonly string[],
  author: string,
): Promise<FieldErrors> {
  const sealed = seal(secret, place(plan, name));
  const { rowCount } = await write(sql.keepCredential, [plan, name, secret.way, sealed, author, prefixes]);
  return rowCount === 0
    ? { name: "Devices that are polled in another way use a credential of this name. Choose another name." }
    : {};
}

/** Forgets a credential; refused while a device is read with it. */
export async function forgetCredential(plan: AdministeredPlan, id: string): Promise<FieldErrors> {
  const { rowCount } = await write(sql.forgetCredential, [plan, id]);
  return rowCount === 0
    ? { credential: "Devices are polled with it. Give them another credential first." }
    : {};
}

export interface NewTarget {
  readonly device: string;
  readonly address: string;
  readonly port: number;
  readonly way: Way;
  readonly credential: string;
  readonly everyMinutes: number | null;
}

/** The reason why a device may not be polled as wanted, at its field; empty if it may. */
export async function targetFaults(plan: EditablePlan, target: NewTarget): Promise<FieldErrors> {
  const { prefixes } = allowedPrefixes();
  if (!isAllowed(target.address, prefixes))
    return {
      address: `This server may not poll ${target.address}. Start it with --read PREFIX to allow it.`,
    };
  const credentials = await credentialsOf(plan);
  const chosen = credentials.find(({ id }) => id === target.credential);
  if (!chosen) return { credential: "Choose a credential." };
  if (chosen.way !== target.way)
    return { credential: `${chosen.name} is for ${chosen.way}, not for ${target.way}.` };
  if (!isAllowed(target.address, chosen.prefixes))
    return {
      credential: `${chosen.name} may be sent to ${chosen.prefixes.join(", ")} only. Ask an administrator of the plan to extend it.`,
    };
  return {};
}

/**
 * Adds a device that is polled, or changes how. Its key is forgotten if the address changes.
 * @param trial whether it is only tested; an error if the device is polled already
 * @returns its id, or errors by field
 */
export async function keepTarget(
  plan: EditablePlan,
  target: NewTarget,
  trial = false,
): Promise<{ id: string } | { errors: FieldErrors }> {
  const errors = await targetFaults(plan, target);
  if (Object.keys(errors).length > 0) return { errors };
  const { device, address, port, way, credential, everyMinutes } = target;
  const { rows } = await write<{ id: string }>(sql.keepTarget, [
    plan,
    device,
    address,
    port,
    way,
    credential,
    everyMinutes,
    trial,
  ]);
  return rows[0]
    ? { id: rows[0].id }
    : { errors: { device: `${device} is already polled. Poll it, or test another device.` } };
}

export async function dropTarget(plan: EditablePlan, id: string): Promise<void> {
  await write(sql.dropTarget, [plan, id]);
}

/** Forgets the host key or certificate of a device: the next one that it shows has to be confirmed. */
export async function forgetProof(plan: AdministeredPlan, id: string): Promise<void> {
  await write(sql.forgetProof, [plan, id]);
}

/**
 * Confirms the key that a device showed: from now on it must show this one, and gets its credential.
 * @param key as the administrator saw it; false where the device has shown another meanwhile
 */
export async function confirmProof(plan: AdministeredPlan, id: string, key: string): Promise<boolean> {
  return ((await write(sql.confirmProof, [plan, id, key])).rowCount ?? 0) > 0;
}

/** Where a credential was sealed for. */
export const placeOf = place;
