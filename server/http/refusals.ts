import { randomUUID } from "node:crypto";
import { LRUCache } from "lru-cache";
import { type AuditEntry, addToRecord } from "../access/audit-log.ts";
import { errorText, log } from "../log.ts";

/** Refusals of one kind that are written one by one within a period. */
const MAX_SINGLE = 10;
const PERIOD_MS = 10 * 60_000;
/** Kinds that are counted apart at once; of more, the oldest are written and forgotten. */
const MAX_KINDS = 500;

interface Count {
  readonly first: AuditEntry;
  readonly sinceMs: number;
  count: number;
  readonly addresses: Set<string>;
}

/** Keeps refused requests from filling the audit log: of each kind (action, person, status) the first ten in ten
 * minutes get their own rows, and the rest are counted in one row. */
export class RefusalCounter {
  private readonly kinds = new LRUCache<string, Count>({
    max: MAX_KINDS,
    dispose: (count) => void this.write(count),
  });
  private readonly timer = setInterval(() => this.writeOld(), PERIOD_MS / 10);

  constructor() {
    this.timer.unref();
  }

  /** Whether a refusal gets its own row; otherwise it is counted. */
  isNew(deed: AuditEntry): boolean {
    // A form's stated action and the name of an anonymous sender are ignored: they can be forged.
    const [address] = deed.action.split(": ");
    const kind = `${deed.account ?? "anonymous"} ${address} ${deed.status}`;
    const known = this.kinds.get(kind);
    if (!known || Date.now() - known.sinceMs > PERIOD_MS) {
      this.kinds.delete(kind);
      this.kinds.set(kind, {
        first: deed,
        sinceMs: Date.now(),
        count: 1,
        addresses: new Set([deed.address]),
      });
      return true;
    }
    known.count++;
    if (known.addresses.size < 20) known.addresses.add(deed.address);
    return known.count <= MAX_SINGLE;
  }

  /** Writes all counts, at the server's end. */
  async flush(): Promise<void> {
    clearInterval(this.timer);
    this.kinds.clear();
  }

  private writeOld() {
    for (const [kind, { sinceMs }] of this.kinds.entries())
      if (Date.now() - sinceMs > PERIOD_MS) this.kinds.delete(kind);
  }

  private async write({ first, sinceMs, count, addresses }: Count) {
    if (count <= MAX_SINGLE) return;
    const seconds = Math.round((Date.now() - sinceMs) / 1000);
    await addToRecord({
      ...first,
      request: randomUUID(),
      detail: { refused: count - MAX_SINGLE, seconds, addresses: [...addresses] },
    }).catch((error) => log.error({ error: errorText(error) }, "refusals are not in the audit log"));
  }
}
