import { NotRead } from "./failure.ts";

/** RFC 6242, 4.3: what ends a message before both sides said that they know chunks. */
export const END_OF_MESSAGE = "]]>]]>";

/** The greeting of either side (RFC 6241, 8.1). */
export function hello(more: readonly string[]): string {
  const capabilities = ["urn:ietf:params:netconf:base:1.0", "urn:ietf:params:netconf:base:1.1", ...more]
    .map((capability) => `<capability>${capability}</capability>`)
    .join("");
  return `<?xml version="1.0" encoding="UTF-8"?><hello xmlns="urn:ietf:params:xml:ns:netconf:base:1.0"><capabilities>${capabilities}</capabilities></hello>`;
}

/** Cuts what arrives into messages: by the mark at their end, or in chunks (RFC 6242, 4.2). */
export class Framing {
  chunked = false;
  private held: Buffer = Buffer.alloc(0);
  private chunks: Buffer[] = [];

  /** Messages that are complete with this part. Throws `NotRead` where the framing is broken. */
  take(part: Buffer): string[] {
    this.held = this.held.length === 0 ? part : Buffer.concat([this.held, part]);
    const messages: string[] = [];
    for (;;) {
      const message = this.chunked ? this.nextOfChunks() : this.nextToMark();
      if (message === null) return messages;
      messages.push(message);
    }
  }

  wrap(message: string): string {
    return this.chunked
      ? `\n#${Buffer.byteLength(message)}\n${message}\n##\n`
      : `${message}${END_OF_MESSAGE}`;
  }

  private nextToMark(): string | null {
    const at = this.held.indexOf(END_OF_MESSAGE);
    if (at < 0) return null;
    const message = this.held.subarray(0, at).toString("utf8");
    this.held = this.held.subarray(at + END_OF_MESSAGE.length);
    return message;
  }

  private nextOfChunks(): string | null {
    for (;;) {
      const head = /^\s*#(\d{1,10}|#)\n/.exec(this.held.subarray(0, 32).toString("latin1"));
      if (!head) {
        if (this.held.length >= 32)
          throw new NotRead("its answer is cut wrongly: no chunk begins where one must", false);
        return null;
      }
      if (head[1] === "#") {
        this.held = this.held.subarray(head[0].length);
        const message = Buffer.concat(this.chunks).toString("utf8");
        this.chunks = [];
        return message;
      }
      const end = head[0].length + Number(head[1]);
      if (this.held.length < end) return null;
      this.chunks.push(this.held.subarray(head[0].length, end));
      this.held = this.held.subarray(end);
    }
  }
}
