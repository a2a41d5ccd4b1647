import { readAllowed } from "../../live/target.ts";

/** The addresses that the server may read: the prefixes of IRON_FORK_READS. Empty if it is not set or malformed. */
export function allowedPrefixes(): { prefixes: string[]; problem: string } {
  const text = process.env.IRON_FORK_READS ?? "";
  const prefixes = readAllowed(text);
  return prefixes
    ? { prefixes, problem: "" }
    : { prefixes: [], problem: `IRON_FORK_READS is no list of prefixes: "${text.slice(0, 100)}"` };
}
