import { hash, verify } from "@node-rs/argon2";

/** As OWASP's sheet on storing passwords asks for argon2id, and the library's own format: 19 MiB, 2 rounds, one lane. */
const HOW = { memoryCost: 19_456, timeCost: 2, parallelism: 1 } as const;

const LEAST = 12;
const MOST = 200;

/** What many people take, and what this application suggests by itself. */
const POOR = ["password", "iron fork", "ironfork", "passwort", "1234", "qwerty", "letmein", "changeme"];

/** What is wrong with a password; null where it is fine (ASVS 2.1.1 to 2.1.9: length and not common, no rules on characters). */
export function poorPassword(password: string, name: string): string | null {
  if (password.length < LEAST)
    return `a password has at least ${LEAST} characters; a sentence of your own is a good one`;
  if (password.length > MOST) return `a password has at most ${MOST} characters`;
  const plain = password.toLowerCase();
  const distinct = new Set(plain).size;
  const rest = POOR.reduce(
    (text, word) => text.replaceAll(word, ""),
    plain.replaceAll(name.toLowerCase(), ""),
  );
  if (distinct < 5 || rest.length < 6) return "this password is easily guessed; take another";
  return null;
}

export function hashPassword(password: string): Promise<string> {
  return hash(password.normalize("NFKC"), HOW);
}

/** Held against where there is no account, so that nobody learns from the time it takes which names there are. */
let nobody: Promise<string> | null = null;

/** Whether a password is the one that was kept. Takes its time whether or not there is one. */
export async function isPassword(kept: string | null, password: string): Promise<boolean> {
  nobody ??= hashPassword("nobody has this password, whoever asks");
  const right = await verify(kept ?? (await nobody), password.slice(0, MOST).normalize("NFKC"));
  return right && kept !== null;
}
