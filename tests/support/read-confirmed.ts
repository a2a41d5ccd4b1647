import { KeyNotConfirmed } from "../../live/failure.ts";
import { type Reading, type ReadOptions, readDevice } from "../../live/read.ts";
import type { Secret, Target } from "../../live/target.ts";

/** Reads a device and confirms the key that it presents first. A device without keys is just read. */
export async function readConfirmed(target: Target, secret: Secret, options: ReadOptions): Promise<Reading> {
  if (target.way.startsWith("snmp")) return readDevice(target, secret, options);
  return readDevice({ ...target, proof: await keyOf(target, secret, options) }, secret, options);
}

/** The key that a device shows at its first contact, at which nothing of the credential is sent. */
export async function keyOf(target: Target, secret: Secret, options: ReadOptions): Promise<string> {
  const first: unknown = await readDevice(target, secret, options).catch((error: unknown) => error);
  if (first instanceof KeyNotConfirmed) return first.proof;
  throw first;
}
