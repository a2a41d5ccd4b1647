import { requestWork } from "../pool.ts";
import { sql as webhookSql } from "../webhooks/sql.ts";
import { type AuditEntry, addToRecordIn } from "./audit-log.ts";
import { eventOf } from "./events.ts";

/** The header that tells a request's thread its action, recorded in the audit log. */
export const AUDIT_HEADER = "x-iron-fork-audit";

/** The action of a modifying request, before its result is known. */
export interface Audit extends Omit<AuditEntry, "status" | "detail"> {
  /** The plan that it changes; null for none. */
  readonly plan: string | null;
}

/** Adds facts about the change that the request makes to its audit row and webhook event; texts are cut at 200 characters. */
export function auditDetail(facts: Readonly<Record<string, string | number>>): void {
  const store = requestWork.getStore();
  if (!store) return;
  for (const [key, value] of Object.entries(facts))
    store.detail[key] = typeof value === "string" ? value.slice(0, 200) : value;
}

export function auditText(audit: Audit): string {
  return encodeURIComponent(JSON.stringify(audit));
}

/** Answers a request. Its audit entry and webhook deliveries are written in the transaction of the change: neither
 * exists without the other, even if the client disconnects. */
export function audited<T>(request: Request, work: () => Promise<T>): Promise<T> {
  const text = request.headers.get(AUDIT_HEADER);
  if (text === null) return work();
  const { plan, ...deed } = JSON.parse(decodeURIComponent(text)) as Audit;
  let written = false;
  const detail: Record<string, unknown> = {};
  return requestWork.run(
    {
      detail,
      async beforeCommit(client) {
        if (written) return;
        written = true;
        if (plan !== null) {
          const { action, subject, who, request: id } = deed;
          const at = new Date().toISOString();
          const event = { type: eventOf(action).name, plan, subject, who, at, request: id, detail };
          await client.query(webhookSql.tell, [plan, JSON.stringify(event)]);
        }
        await addToRecordIn(client, { ...deed, status: 200, detail });
      },
    },
    work,
  );
}
