import { isAllowed, type Secret, type Way } from "../../live/target.ts";
import { isPlanId } from "../plans.ts";
import { database } from "../pool.ts";
import { sql } from "../sql.ts";
import { allowedPrefixes } from "./allowed.ts";
import { seal } from "./seal.ts";

/** A credential as it may be shown: never what it holds. */
export interface Credential {
  readonly id: string;
  readonly name: string;
  readonly way: Way;
  readonly madeAt: Date;
  readonly author: string;
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
  /** Whether its host key or certificate is known. */
  readonly known: boolean;
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

export async function credentialsOf(plan: string): Promise<Credential[]> {
  if (!isPlanId(plan)) return [];
  return (await database().query<Credential>(sql.credentials, [plan])).rows;
}

export async function targetsOf(plan: string): Promise<TargetRow[]> {
  if (!isPlanId(plan)) return [];
  return (await database().query<TargetRow>(sql.targets, [plan])).rows;
}

/** What went wrong, at the field that it is about. */
export type FieldErrors = Readonly<Record<string, string>>;

const place = (plan: string, name: string) => `${plan} ${name}`;

/** Keeps a credential, encrypted; one of the same name is replaced. */
export async function keepCredential(
  plan: string,
  name: string,
  secret: Secret,
  author: string,
): Promise<FieldErrors> {
  const sealed = seal(secret, place(plan, name));
  const { rowCount } = await database().query(sql.keepCredential, [plan, name, secret.way, sealed, author]);
  return rowCount === 0
    ? { name: "a credential of this name is used by devices of another way; choose another name" }
    : {};
}

/** Forgets a credential; refused while a device is read with it. */
export async function forgetCredential(plan: string, id: string): Promise<FieldErrors> {
  const { rowCount } = await database().query(sql.forgetCredential, [plan, id]);
  return rowCount === 0 ? { credential: "devices are read with it; give them another first" } : {};
}

export interface NewTarget {
  readonly device: string;
  readonly address: string;
  readonly port: number;
  readonly way: Way;
  readonly credential: string;
  readonly everyMinutes: number | null;
}

/** Adds a device that is read, or changes how; what was known of its key is forgotten where it is another address. */
export async function keepTarget(plan: string, target: NewTarget): Promise<FieldErrors> {
  const { prefixes } = allowedPrefixes();
  if (!isAllowed(target.address, prefixes))
    return { address: `${target.address} lies in no prefix that this server may read` };
  const credentials = await credentialsOf(plan);
  const chosen = credentials.find(({ id }) => id === target.credential);
  if (!chosen) return { credential: "choose what it is asked with" };
  if (chosen.way !== target.way)
    return { credential: `${chosen.name} is for ${chosen.way}, not for ${target.way}` };
  const { device, address, port, way, credential, everyMinutes } = target;
  await database().query(sql.keepTarget, [plan, device, address, port, way, credential, everyMinutes]);
  return {};
}

export async function dropTarget(plan: string, id: string): Promise<void> {
  await database().query(sql.dropTarget, [plan, id]);
}

/** Forgets the host key or certificate of a device: the next reading keeps what it finds. */
export async function forgetProof(plan: string, id: string): Promise<void> {
  await database().query(sql.forgetProof, [plan, id]);
}

/** Where a credential was sealed for. */
export const placeOf = place;
