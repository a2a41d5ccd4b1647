import { errorText, log } from "../log.ts";
import { database } from "../pool.ts";

/** Notes that a sign-in or token was used. Nobody waits for it, and no request fails with it: the disk may be full. */
export function noteUse(statement: string, digest: Buffer) {
  database()
    .query(statement, [digest])
    .catch((error) => log.warn({ error: errorText(error) }, "the use of a sign-in could not be saved"));
}
