import { generateKeyPairSync } from "node:crypto";
import ssh2, { type AuthContext, type Connection, type ServerChannel } from "ssh2";
import { formatXml } from "../exchange/writers/xml.ts";
import { END_OF_MESSAGE, Framing, hello } from "../live/netconf-framing.ts";
import type { Login } from "./restconf.ts";

const XMLNS = 'xmlns="urn:ietf:params:xml:ns:netconf:base:1.0"';

/** A device's NETCONF server over SSH (RFC 6241, 6242), read-only, with a generated host key. */
export function netconfServer(datastore: () => Record<string, unknown>, login: Login): ssh2.Server {
  return new ssh2.Server({ hostKeys: [freshHostKey()] }, (client: Connection) => {
    client.on("error", () => {});
    client.on("authentication", (context) => admit(context, login));
    client.on("session", (accept) => {
      accept().on("subsystem", (take, refuse, { name }) => {
        if (name === "netconf") talk(take(), datastore);
        else refuse();
      });
    });
  });
}

/** A generated host key as PEM (RFC 5915). */
export function freshHostKey(): string {
  const encoding = { type: "sec1", format: "pem" } as const;
  return generateKeyPairSync("ec", { namedCurve: "prime256v1" }).privateKey.export(encoding).toString();
}

function admit(context: AuthContext, { user, password }: Login) {
  if (context.method === "password" && context.username === user && context.password === password)
    context.accept();
  else context.reject(["password"]);
}

function talk(channel: ServerChannel, datastore: () => Record<string, unknown>) {
  const framing = new Framing();
  let greeted = false;
  channel.on("error", () => {});
  channel.write(
    `${hello([]).replace("</capabilities>", "</capabilities><session-id>1</session-id>")}${END_OF_MESSAGE}`,
  );
  channel.on("data", (part: Buffer) => {
    for (const message of framing.take(part)) {
      if (!greeted) {
        greeted = true;
        framing.chunked = message.includes("urn:ietf:params:netconf:base:1.1");
        continue;
      }
      channel.write(framing.wrap(replyTo(message, datastore)));
      if (/<(?:\w+:)?close-session/.test(message)) channel.end();
    }
  });
}

function replyTo(message: string, datastore: () => Record<string, unknown>): string {
  const id = /\bmessage-id=["']([\w.-]{1,64})["']/.exec(message)?.[1] ?? "";
  const reply = (body: string) =>
    `<?xml version="1.0" encoding="UTF-8"?>\n<rpc-reply message-id="${id}" ${XMLNS}>${body}</rpc-reply>`;
  if (/<(?:\w+:)?close-session/.test(message)) return reply("<ok/>");
  if (!/<(?:\w+:)?get(?:-config)?[\s>/]/.test(message))
    return reply(
      "<rpc-error><error-type>protocol</error-type><error-tag>operation-not-supported</error-tag><error-severity>error</error-severity><error-message>this device is only read</error-message></rpc-error>",
    );
  // RFC 6241, 6.2.1: a subtree filter selects by its top-level containers.
  const filter = /<(?:\w{1,40}:)?filter[\s>]/.test(message)
    ? (message.split(/<\/?(?:\w{1,40}:)?filter/, 2)[1] ?? "")
    : undefined;
  const named = filter && new Set([...filter.matchAll(/<(?:\w+:)?([\w-]+)/g)].map(([, name]) => name));
  const all = Object.entries(datastore());
  const chosen = named ? all.filter(([key]) => named.has(key.slice(key.indexOf(":") + 1))) : all;
  return reply(formatXml(Object.fromEntries(chosen)).replace(/^<\?xml[^>]*\?>\s*/, ""));
}
