import { setPriority } from "node:os";
import { createRequestHandler, type ServerBuild } from "react-router";
import type { audited } from "../access/audit.ts";
import { start } from "./clock.ts";
import type { Answer, Timed } from "./lanes.ts";

// On Linux the priority is that of the calling thread alone.
const niceness = Number(process.env.THREAD_NICENESS ?? 0);
if (niceness > 0) setPriority(niceness);

const built = new URL("../server/index.js", import.meta.url).href;
const build = (await import(built)) as ServerBuild;
const handle = createRequestHandler(build, "production");
// Of the application's own bundle: there its transactions are.
const entry = build.entry.module as unknown as { audited: typeof audited };

/** Answers one request in this thread, whole. */
export default async function answer({ job, clock }: Timed): Promise<Answer> {
  start(clock);
  const headers = new Headers(job.headers as [string, string][]);
  const body = job.body && job.body.length > 0 ? Buffer.from(job.body) : null;
  const request = new Request(job.url, { method: job.method, headers, body });
  return entry.audited(request, async () => {
    const response = await handle(request, { nonce: job.nonce, requestId: job.requestId });
    return {
      status: response.status,
      headers: [...response.headers],
      body: new Uint8Array(await response.arrayBuffer()),
    };
  });
}
