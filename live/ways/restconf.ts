import type { IncomingMessage } from "node:http";
import { request } from "node:https";
import type { TLSSocket } from "node:tls";
import { type Ask, type Asking, fileOf, untilEnded } from "../asking.ts";
import { connectionFailed, KeyNotConfirmed, NotRead } from "../failure.ts";

const parts = ["ietf-system:system", "ietf-interfaces:interfaces", "ietf-routing:routing"] as const;
/** RFC 8349's state had a separate tree before the datastores were merged. */
const older = ["ietf-interfaces:interfaces-state", "ietf-routing:routing-state"] as const;

/** Reads a device by RESTCONF (RFC 8040): its interfaces and routes, as JSON. */
export const askByRestconf: Ask = async (asking) => {
  const talk = new Talk(asking);
  asking.tell("finding the API root");
  const root = await talk.root();
  const files = [];
  for (const part of [...parts, ...older]) {
    asking.tell(`requesting ${part}`);
    const { status, text, type } = await talk.get(`${root}/data/${part}`, "application/yang-data+json");
    if (status === 401 || status === 403) throw new NotRead("user or password rejected", false);
    if (status === 404 || status === 400) continue;
    if (status !== 200) throw new NotRead(`status ${status} for ${part}`, status >= 500);
    if (!/json/.test(type)) throw new NotRead("the answer is not JSON", false);
    files.push(fileOf(asking.target, `${part.replace(":", "-")}.json`, text));
  }
  if (files.length === 0) throw new NotRead("the device has none of the supported models", false);
  return files;
};

/** Characters of the document of links that are read. */
const MAX_LINKS_LENGTH = 20_000;

class Talk {
  constructor(private readonly asking: Asking) {}

  /** RFC 8040, 3.1: where the interface begins stands in a document of links. */
  async root(): Promise<string> {
    const { status, text } = await this.get("/.well-known/host-meta", "application/xrd+xml");
    // Each link is a separate tag; only a bounded part of other text is examined.
    const tags = text
      .slice(0, MAX_LINKS_LENGTH)
      .split("<")
      .filter((tag) => /^Link\s/i.test(tag));
    const link = tags.find((tag) => /\srel=['"]restconf['"]/i.test(tag)) ?? "";
    const href = /\shref=['"](\/[\w./-]{0,200})['"]/i.exec(link)?.[1];
    return status === 200 && href ? href.replace(/\/$/, "") : "/restconf";
  }

  get(path: string, accept: string): Promise<{ status: number; text: string; type: string }> {
    const { target, secret, limits, signal } = this.asking;
    if (secret.way !== "restconf") throw new NotRead("the credentials are for another protocol", false);
    const work = new Promise<{ status: number; text: string; type: string }>((resolve, reject) => {
      const asked = request(
        {
          host: target.address,
          port: target.port,
          path,
          method: "GET",
          agent: false,
          timeout: limits.answerMs,
          signal,
          // Devices have certificates of their own making: an administrator confirms the first one, and it stays that one.
          rejectUnauthorized: false,
          headers: { Accept: accept },
        },
        (answer) => this.body(answer).then(resolve, reject),
      );
      asked.on("timeout", () => asked.destroy(new NotRead("the device does not respond", true)));
      asked.on("error", (error) => reject(told(error)));
      asked.on("socket", (socket) => {
        socket.once("secureConnect", () => {
          const strange = this.check(socket as TLSSocket);
          if (strange) return asked.destroy(strange);
          // The password goes only to a device whose key is confirmed.
          asked.setHeader(
            "Authorization",
            `Basic ${Buffer.from(`${secret.user}:${secret.password}`).toString("base64")}`,
          );
          asked.end();
        });
      });
    });
    return untilEnded(signal, work);
  }

  private check(socket: TLSSocket): NotRead | null {
    const proof = socket.getPeerCertificate()?.fingerprint256?.replaceAll(":", "").toLowerCase() ?? null;
    if (proof === null) return new NotRead("the device has no certificate", false);
    const wanted = this.asking.target.proof;
    if (wanted === null) return new KeyNotConfirmed(proof);
    return wanted === proof
      ? null
      : new NotRead(
          "the certificate has changed: it may be another device. Remove the key if the change is expected",
          false,
        );
  }

  private async body(answer: IncomingMessage): Promise<{ status: number; text: string; type: string }> {
    const chunks: Buffer[] = [];
    for await (const chunk of answer) {
      this.asking.meter.take((chunk as Buffer).length);
      chunks.push(chunk as Buffer);
    }
    const text = Buffer.concat(chunks).toString("utf8");
    return { status: answer.statusCode ?? 0, text, type: String(answer.headers["content-type"] ?? "") };
  }
}

function told(error: Error & { code?: string }): Error {
  if (error instanceof NotRead) return error;
  if (/^ERR_SSL|EPROTO|wrong version/i.test(`${error.code} ${error.message}`))
    return new NotRead("no TLS on this port", false);
  return connectionFailed(error);
}
