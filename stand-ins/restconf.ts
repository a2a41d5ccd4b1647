import { timingSafeEqual } from "node:crypto";
import type { IncomingMessage, ServerResponse } from "node:http";
import { createServer, type Server } from "node:https";
import { generate } from "selfsigned";
import { formatXml } from "../exchange/writers/xml.ts";

export interface Login {
  readonly user: string;
  readonly password: string;
}

const ROOT = "/restconf";

/** A device's RESTCONF server (RFC 8040), read-only, with a generated certificate. */
export async function restconfServer(
  datastore: () => Record<string, unknown>,
  { user, password }: Login,
): Promise<Server> {
  const { private: key, cert } = await generate([{ name: "commonName", value: "device" }], {
    keyType: "ec",
    algorithm: "sha256",
  });
  const wanted = Buffer.from(`Basic ${Buffer.from(`${user}:${password}`).toString("base64")}`);
  return createServer({ key, cert }, (req, res) => {
    const given = Buffer.from(req.headers.authorization ?? "");
    if (given.length !== wanted.length || !timingSafeEqual(given, wanted)) {
      res.setHeader("WWW-Authenticate", 'Basic realm="device"');
      return answer(res, 401, "access-denied", req);
    }
    if (req.method !== "GET" && req.method !== "HEAD")
      return answer(res, 405, "operation-not-supported", req);
    const { pathname } = new URL(req.url ?? "/", "https://device");
    if (pathname === "/.well-known/host-meta") {
      res.setHeader("Content-Type", "application/xrd+xml");
      return res.end(
        `<XRD xmlns="http://docs.oasis-open.org/ns/xri/xrd-1.0"><Link rel="restconf" href="${ROOT}"/></XRD>\n`,
      );
    }
    const part = pathname.startsWith(`${ROOT}/data`)
      ? pathname.slice(`${ROOT}/data`.length).replace(/^\//, "")
      : null;
    const all = datastore();
    if (part === null || (part !== "" && !Object.hasOwn(all, part)))
      return answer(res, 404, "invalid-value", req);
    send(res, part === "" ? { "ietf-restconf:data": all } : { [part]: all[part] }, req);
  });
}

function send(res: ServerResponse, tree: Record<string, unknown>, req: IncomingMessage) {
  if (wantsXml(req)) {
    res.setHeader("Content-Type", "application/yang-data+xml");
    return res.end(formatXml(tree));
  }
  res.setHeader("Content-Type", "application/yang-data+json");
  res.end(JSON.stringify(tree));
}

/** RFC 8040, 7.1: an error's body. */
function answer(res: ServerResponse, status: number, tag: string, req: IncomingMessage) {
  res.statusCode = status;
  send(res, { "ietf-restconf:errors": { error: [{ "error-type": "protocol", "error-tag": tag }] } }, req);
}

const wantsXml = ({ headers }: IncomingMessage) =>
  /\+xml/.test(headers.accept ?? "") && !/\+json/.test(headers.accept ?? "");
