import type { ClientChannel } from "ssh2";
import { type Ask, type Asking, fileOf, untilEnded } from "../asking.ts";
import { NotRead } from "../failure.ts";
import { END_OF_MESSAGE, Framing, hello } from "../netconf-framing.ts";
import { Connection } from "./ssh-client.ts";

const models = ["interfaces", "interfaces-state", "routing", "routing-state", "system"] as const;
const moduleOf = (model: (typeof models)[number]) => `ietf-${model.replace(/-state$/, "")}`;

/** RFC 6241, 7.7: configuration and state of the models that are read, by a subtree filter. */
const request = `<?xml version="1.0" encoding="UTF-8"?>
<rpc message-id="1" xmlns="urn:ietf:params:xml:ns:netconf:base:1.0"><get><filter type="subtree">${models
  .map((model) => `<${model} xmlns="urn:ietf:params:xml:ns:yang:${moduleOf(model)}"/>`)
  .join("")}</filter></get></rpc>`;

/** Reads a device by NETCONF over SSH (RFC 6241, 6242). */
export const askByNetconf: Ask = async (asking) => {
  const connection = await Connection.open(asking);
  try {
    asking.tell("exchanging capabilities");
    const channel = await connection.subsystem("netconf");
    const talk = new Talk(channel, connection, asking);
    talk.send(`${hello([])}${END_OF_MESSAGE}`);
    const greeting = await talk.next();
    if (!holdsElement(greeting, "hello")) throw new NotRead("the device does not support NETCONF", false);
    const chunked = greeting.includes("urn:ietf:params:netconf:base:1.1");
    if (chunked) talk.framing.chunked = true;
    asking.tell("requesting interfaces and routes");
    talk.send(talk.framing.wrap(request));
    const reply = await talk.next();
    // The error's text is not quoted: a device's message may contain the request.
    if (holdsElement(reply, "rpc-error"))
      throw new NotRead("the device rejects the request (rpc-error)", false);
    return [fileOf(asking.target, "data.xml", reply)];
  } finally {
    connection.end();
  }
};

/** Bytes at a message's beginning within which its first elements stand. */
const HEAD_LENGTH = 4096;

/** Whether an element of this name opens near the beginning of a message, in whatever namespace. */
function holdsElement(message: string, name: string): boolean {
  const head = message.slice(0, HEAD_LENGTH);
  return [`<${name}`, `:${name}`].some((opening) => {
    const at = head.indexOf(opening);
    return at >= 0 && /[\s>/]/.test(head[at + opening.length] ?? "");
  });
}

/** Messages to and from the device. */
class Talk {
  readonly framing = new Framing();
  private readonly waiting: { resolve: (message: string) => void; reject: (why: unknown) => void }[] = [];
  private readonly messages: string[] = [];
  private failed: unknown = null;

  constructor(
    private readonly channel: ClientChannel,
    connection: Connection,
    private readonly asking: Asking,
  ) {
    const fail = (why: unknown) => {
      this.failed ??= why;
      for (const { reject } of this.waiting.splice(0)) reject(this.failed);
    };
    const take = connection.metered([], fail);
    channel.on("data", (part: Buffer) => {
      take(part);
      try {
        for (const message of this.framing.take(part)) this.got(message);
      } catch (error) {
        fail(error);
      }
    });
    channel.on("close", () => fail(new NotRead("the device closed the connection", true)));
  }

  private got(message: string) {
    const first = this.waiting.shift();
    if (first) first.resolve(message);
    else this.messages.push(message);
  }

  send(text: string) {
    this.channel.write(text);
  }

  next(): Promise<string> {
    const ready = this.messages.shift();
    if (ready !== undefined) return Promise.resolve(ready);
    if (this.failed) return Promise.reject(this.failed);
    const { signal, limits } = this.asking;
    const message = new Promise<string>((resolve, reject) => {
      const late = setTimeout(
        () => reject(new NotRead("the device does not respond", true)),
        limits.answerMs,
      );
      const settled =
        <T>(act: (value: T) => void) =>
        (value: T) => {
          clearTimeout(late);
          act(value);
        };
      this.waiting.push({ resolve: settled(resolve), reject: settled(reject) });
    });
    return untilEnded(signal, message);
  }
}
