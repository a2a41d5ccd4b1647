import { createHash, randomBytes } from "node:crypto";

/** Something that only who was given it knows: 256 bits, in characters that stand in any address or header. */
export function freshSecret(): string {
  return randomBytes(32).toString("base64url");
}

/** The stored form of a secret. Secrets have full entropy, so a plain digest is enough. */
export function digestOf(secret: string): Buffer {
  return createHash("sha256").update(secret).digest();
}
