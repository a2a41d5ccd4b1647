import { createCipheriv, createDecipheriv, randomBytes } from "node:crypto";
import { readFileSync } from "node:fs";
import { type Secret, secretSchema } from "../../live/target.ts";

const ALGORITHM = "aes-256-gcm";
const VECTOR_BYTES = 12;
const TAG_BYTES = 16;
const KEY_BYTES = 32;

/** There is no key to keep credentials with; says what to do. */
export class NoKey extends Error {}

/** The key: 64 hexadecimal digits in IRON_FORK_KEY, or in the file that IRON_FORK_KEY_FILE names. */
function key(): Buffer {
  const { IRON_FORK_KEY, IRON_FORK_KEY_FILE } = process.env;
  let text = IRON_FORK_KEY;
  if (text === undefined && IRON_FORK_KEY_FILE) {
    try {
      text = readFileSync(IRON_FORK_KEY_FILE, "utf8");
    } catch {
      throw new NoKey(`The key of the credentials cannot be read from ${IRON_FORK_KEY_FILE}.`);
    }
  }
  if (text === undefined)
    throw new NoKey("There is no key to keep credentials with: set IRON_FORK_KEY_FILE to a file with one.");
  if (!/^[0-9a-f]{64}\s*$/i.test(text))
    throw new NoKey(`The key of the credentials must be ${KEY_BYTES * 2} hexadecimal digits.`);
  return Buffer.from(text.trim(), "hex");
}

/** Encrypts a credential (AES-256-GCM, NIST SP 800-38D): vector, tag and text. `place` binds it to where it is kept. */
export function seal(secret: Secret, place: string): Buffer {
  const vector = randomBytes(VECTOR_BYTES);
  const cipher = createCipheriv(ALGORITHM, key(), vector);
  cipher.setAAD(Buffer.from(place));
  const text = Buffer.concat([cipher.update(JSON.stringify(secret), "utf8"), cipher.final()]);
  return Buffer.concat([vector, cipher.getAuthTag(), text]);
}

/** Decrypts it again. Throws `NoKey` where it was sealed with another key, or for another place. */
export function unseal(sealed: Buffer, place: string): Secret {
  const open = createDecipheriv(ALGORITHM, key(), sealed.subarray(0, VECTOR_BYTES));
  open.setAAD(Buffer.from(place));
  open.setAuthTag(sealed.subarray(VECTOR_BYTES, VECTOR_BYTES + TAG_BYTES));
  let text: string;
  try {
    text = Buffer.concat([open.update(sealed.subarray(VECTOR_BYTES + TAG_BYTES)), open.final()]).toString(
      "utf8",
    );
  } catch {
    throw new NoKey("The credential was kept with another key than the server has now; enter it again.");
  }
  return secretSchema.parse(JSON.parse(text));
}
