import { hash, verify } from "@node-rs/argon2";

/** As OWASP's sheet on storing passwords asks for argon2id, and the library's own format: 19 MiB, 2 rounds, one lane. */
const HOW = { memoryCost: 19_456, timeCost: 2, parallelism: 1 } as const;

const MIN_LENGTH = 12;
const MAX_LENGTH = 200;

/** The product's own name, which people take for a password of it. */
const PRODUCT = ["ironfork"];

/** Passwords by how common they are, 49,233 of them; loaded when one is first chosen. */
let common: Promise<ReadonlySet<string>> | null = null;

function commonPasswords(): Promise<ReadonlySet<string>> {
  common ??= import("@zxcvbn-ts/language-common").then(
    ({ dictionary }) => new Set(dictionary["passwords-common"].map((one) => String(one))),
  );
  return common;
}

/** Letters and digits alone, so that spaces and hyphens hide no word. */
const plainOf = (text: string) =>
  text
    .normalize("NFKC")
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]/gu, "");

/** The weakness of a new password; null if it is acceptable (ASVS 2.1.1 to 2.1.9: long, not common, no character
 * rules).
 * @param name the account's */
export async function weaknessOf(password: string, name: string): Promise<string | null> {
  if (password.length < MIN_LENGTH)
    return `A password has at least ${MIN_LENGTH} characters. A sentence of your own works well.`;
  if (password.length > MAX_LENGTH) return `A password has at most ${MAX_LENGTH} characters.`;
  const plain = plainOf(password);
  const known = await commonPasswords();
  if ([password.toLowerCase(), plain, ...halvesOf(plain), unnumbered(plain)].some((one) => known.has(one)))
    return "This password is among the most common ones. Choose another.";
  const words = [...PRODUCT, plainOf(name)].filter((word) => word.length >= 3);
  if (words.some((word) => plain.includes(word)))
    return "The password contains the product's name or the account's. Choose another.";
  if (new Set(plain).size < 5) return "This password has too few different characters. Choose another.";
  return null;
}

/** The half of a text that is the same twice: a common password that was typed twice is no better. */
function halvesOf(text: string): string[] {
  const half = text.slice(0, text.length / 2);
  return half + half === text ? [half] : [];
}

/** The text without digits at its end. */
function unnumbered(text: string): string {
  let end = text.length;
  while (end > 0 && /\d/.test(text[end - 1])) end--;
  return text.slice(0, end);
}

export function hashPassword(password: string): Promise<string> {
  return hash(password.normalize("NFKC"), HOW);
}

/** Compared for unknown accounts, so that timing does not reveal which names exist. */
let nobody: Promise<string> | null = null;

/** Whether a password is the one that was kept. Takes its time whether or not there is one. */
export async function isPassword(kept: string | null, password: string): Promise<boolean> {
  nobody ??= hashPassword("never a valid password");
  const right = await verify(kept ?? (await nobody), password.slice(0, MAX_LENGTH).normalize("NFKC"));
  return right && kept !== null;
}
