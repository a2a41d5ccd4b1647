import { createHash } from "node:crypto";
import { keepAnswer, oneAtATime, savedAnswer } from "../../server/access/saved-answers.ts";
import { Problem } from "./problem.ts";

/** Performs a request once per Idempotency-Key and caller: a repetition gets the first response again; the same key
 * with another request is refused. `withheld` fields of the response are not stored, because a secret is shown once.
 * Without a key, and for read-only requests, there is no caching. */
export async function onceByKey(
  request: Request,
  asker: string,
  withheld: readonly string[],
  work: (body: Uint8Array | null) => Promise<Response>,
): Promise<Response> {
  if (request.method !== "POST") return work(null);
  const body = new Uint8Array(await request.arrayBuffer());
  const key = request.headers.get("Idempotency-Key");
  if (key === null) return work(body);
  if (key === "" || key.length > 200) throw new Problem(400, "an Idempotency-Key has 1 to 200 characters");
  const { pathname, search } = new URL(request.url);
  const digest = createHash("sha256").update(`${pathname}${search}\n`).update(body).digest();
  const answer = await oneAtATime(`${asker} ${key}`, async () => {
    const kept = await savedAnswer(asker, key);
    if (kept && !kept.request.equals(digest))
      throw new Problem(422, "this Idempotency-Key was used for another request");
    if (kept)
      return new Response(new Uint8Array(kept.body), {
        status: kept.status,
        headers: { ...kept.headers, "Idempotency-Replayed": "true" },
      });
    const response = await work(body);
    const answered = Buffer.from(await response.arrayBuffer());
    const headers = Object.fromEntries(response.headers);
    await keepAnswer(asker, key, {
      request: digest,
      status: response.status,
      headers,
      body: without(answered, withheld),
    });
    return new Response(new Uint8Array(answered), { status: response.status, headers });
  });
  if (answer) return answer;
  throw new Problem(
    409,
    "A request with this Idempotency-Key is being answered. Try again in a moment.",
    [],
    {
      "Retry-After": "2",
    },
  );
}

/** A JSON object with null in place of some of its fields. */
function without(body: Buffer, fields: readonly string[]): Buffer {
  if (fields.length === 0) return body;
  const value = JSON.parse(body.toString("utf8")) as Record<string, unknown>;
  for (const field of fields) if (field in value) value[field] = null;
  return Buffer.from(JSON.stringify(value));
}
