import { NotRead } from "./failure.ts";

/** RFC 6242, 4.3: the end-of-message mark before both sides have agreed on chunks. */
export const END_OF_MESSAGE = "]]>]]>";

/** The greeting of either side (RFC 6241, 8.1). */
export function hello(more: readonly string[]): string {
  const capabilities = ["urn:ietf:params:netconf:base:1.0", "urn:ietf:params:netconf:base:1.1", ...more]
    .map((capability) => `<capability>${capability}</capability>`)
    .join("");
  return `<?xml version="1.0" encoding="UTF-8"?><hello xmlns="urn:ietf:params:xml:ns:netconf:base:1.0"><capabilities>${capabilities}</capabilities></hello>`;
}

/** The longest head of a chunk: white space, "#", ten digits, a line's end. */
const MAX_HEAD_BYTES = 32;

/**
 * Cuts what arrives into messages: by the mark at their end, or in chunks (RFC 6242, 4.2). Each byte is looked at a
 * fixed number of times, however small the parts are in which a device sends.
 */
export class Framing {
  chunked = false;
  /** Bytes of the message that is under way, in the parts in which they came. */
  private parts: Buffer[] = [];
  /** Bytes that are not looked at yet: what could be the beginning of a mark, or of a chunk's head. */
  private rest: Buffer = Buffer.alloc(0);
  /** Bytes of the present chunk that are still to come. */
  private missing = 0;

  /** Messages that are complete with this part. Throws `NotRead` where the framing is broken. */
  take(part: Buffer): string[] {
    const messages: string[] = [];
    let left: Buffer = this.rest.length === 0 ? part : Buffer.concat([this.rest, part]);
    this.rest = Buffer.alloc(0);
    while (left.length > 0) {
      const before = left.length;
      left = this.chunked ? this.takeChunk(left, messages) : this.takeToMark(left, messages);
      if (left.length === before) {
        this.rest = Buffer.from(left);
        break;
      }
    }
    return messages;
  }

  wrap(message: string): string {
    return this.chunked
      ? `\n#${Buffer.byteLength(message)}\n${message}\n##\n`
      : `${message}${END_OF_MESSAGE}`;
  }

  /** The bytes after a message's end; without a mark, the bytes that could begin one. */
  private takeToMark(left: Buffer, messages: string[]): Buffer {
    const at = left.indexOf(END_OF_MESSAGE);
    if (at >= 0) {
      this.parts.push(left.subarray(0, at));
      messages.push(this.ended());
      return left.subarray(at + END_OF_MESSAGE.length);
    }
    const kept = Math.min(left.length, END_OF_MESSAGE.length - 1);
    if (left.length > kept) this.parts.push(left.subarray(0, left.length - kept));
    return left.subarray(left.length - kept);
  }

  private takeChunk(left: Buffer, messages: string[]): Buffer {
    if (this.missing > 0) {
      const taken = Math.min(this.missing, left.length);
      this.parts.push(left.subarray(0, taken));
      this.missing -= taken;
      return left.subarray(taken);
    }
    const head = /^\s{0,16}#(\d{1,10}|#)\n/.exec(left.subarray(0, MAX_HEAD_BYTES).toString("latin1"));
    if (!head) {
      if (left.length >= MAX_HEAD_BYTES)
        throw new NotRead("the answer is framed incorrectly: expected the start of a chunk", false);
      return left;
    }
    if (head[1] === "#") messages.push(this.ended());
    else this.missing = Number(head[1]);
    return left.subarray(head[0].length);
  }

  private ended(): string {
    const message = Buffer.concat(this.parts).toString("utf8");
    this.parts = [];
    return message;
  }
}
