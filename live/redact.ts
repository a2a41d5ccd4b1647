import type { Secret } from "./target.ts";

const HIDDEN = "•••";
/** Shorter ones ("public") are words that a device may say for itself. */
const MIN_LONG = 8;

/** The parts of a credential that must never be shown, literally and in their encoded forms. */
function wordsOf(secret: Secret): string[] {
  const hidden = ["community", "password", "key", "authWord", "privacyWord"];
  return Object.entries(secret).flatMap(([name, word]) =>
    hidden.includes(name) && word !== "" ? [word] : [],
  );
}

const formsOf = (word: string) => [
  word,
  Buffer.from(word).toString("base64").split("=", 1)[0],
  Buffer.from(word).toString("hex"),
];

/** A sentence without any word of a credential. */
export function withoutSecrets(text: string, secret: Secret): string {
  return wordsOf(secret)
    .flatMap(formsOf)
    .reduce((cleaned, form) => cleaned.replaceAll(form, HIDDEN), text);
}

/** A device's answer without the words that it was asked with: it may repeat them, and its answers are shown. */
export function withoutLongSecrets(text: string, secret: Secret): string {
  return wordsOf(secret)
    .filter((word) => word.length >= MIN_LONG)
    .flatMap(formsOf)
    .reduce((cleaned, form) => cleaned.replaceAll(form, HIDDEN), text);
}
