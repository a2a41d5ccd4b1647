import { isAllowed, type Secret, type Way } from "../../live/target.ts";
import type { AdministeredPlan, EditablePlan, ReadablePlan } from "../access/grants.ts";
import { database, write } from "../pool.ts";
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
  /** The key that it showed at its first contact, for an administrator to confirm; null where there is none. */
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
