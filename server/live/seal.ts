import { createCipheriv, createDecipheriv, randomBytes } from "node:crypto";
import { readFileSync } from "node:fs";
import { type Secret, secretSchema } from "../../live/target.ts";

const ALGORITHM = "aes-256-gcm";
const VECTOR_BYTES = 12;
const TAG_BYTES = 16;
const KEY_BYTES = 32;

/** There is no key to keep secrets with, or it is another one; says what to do. */
export class NoKey extends Error {}

/** The key: 64 hexadecimal digits in IRON_FORK_KEY, or in the file that IRON_FORK_KEY_FILE names. */
function key(): Buffer {
  const { IRON_FORK_KEY, IRON_FORK_KEY_FILE } = process.env;
  let text = IRON_FORK_KEY;
  if (text === undefined && IRON_FORK_KEY_FILE) {
    try {
      text = readFileSync(IRON_FORK_KEY_FILE, "utf8");
    } catch {
      throw new NoKey(`The key for secrets cannot be read from ${IRON_FORK_KEY_FILE}.`);
    }
  }
  if (text === undefined)
    throw new NoKey("There is no key to save secrets with. Set IRON_FORK_KEY_FILE to a file with one.");
  if (!/^[0-9a-f]{64}\s*$/i.test(text))
    throw new NoKey(`The key for secrets must be ${KEY_BYTES * 2} hexadecimal digits.`);
  return Buffer.from(text.trim(), "hex");
}

/** Encrypts bytes (AES-256-GCM, NIST SP 800-38D): vector, tag and text. `place` binds them to their storage location.
 * */
export function sealBytes(bytes: Uint8Array, place: string): Buffer {
  const vector = randomBytes(VECTOR_BYTES);
  const cipher = createCipheriv(ALGORITHM, key(), vector);
  cipher.setAAD(Buffer.from(place));
  const text = Buffer.concat([cipher.update(bytes), cipher.final()]);
  return Buffer.concat([vector, cipher.getAuthTag(), text]);
}

/** Encrypts a credential. */
export function seal(secret: Secret, place: string): Buffer {
  return sealBytes(Buffer.from(JSON.stringify(secret)), place);
}

/** Decrypts bytes. Throws `NoKey` if they were sealed with another key or for another place. */
export function unsealBytes(sealed: Buffer, place: string): Buffer {
  try {
    const open = createDecipheriv(ALGORITHM, key(), sealed.subarray(0, VECTOR_BYTES));
    open.setAAD(Buffer.from(place));
    open.setAuthTag(sealed.subarray(VECTOR_BYTES, VECTOR_BYTES + TAG_BYTES));
    return Buffer.concat([open.update(sealed.subarray(VECTOR_BYTES + TAG_BYTES)), open.final()]);
  } catch (error) {
    if (error instanceof NoKey) throw error;
    throw new NoKey("The secret was saved with another key than the server has now. Enter it again.");
  }
}

/** Decrypts a credential again. */
export function unseal(sealed: Buffer, place: string): Secret {
  return secretSchema.parse(JSON.parse(unsealBytes(sealed, place).toString("utf8")));
}
