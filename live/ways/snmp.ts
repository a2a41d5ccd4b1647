import type { RemoteInfo, Socket } from "node:dgram";
import snmp, { type Session, type Varbind } from "net-snmp";
import { walked } from "../../exchange/readers/walk.ts";
import { type Ask, type Asking, fileOf, untilEnded } from "../asking.ts";
import { NotRead } from "../failure.ts";
import type { Secret } from "../target.ts";

/** Rows that are asked for at once. */
const AT_ONCE = 25;

/** Reads the management tables that the walk reader knows, by GetBulk (RFC 3416), as the text of a numeric walk. */
export const askBySnmp: Ask = async (asking) => {
  const { target, tell, signal } = asking;
  const session = sessionOf(asking);
  const lines: string[] = [];
  try {
    for (const root of walked) {
      tell(`walking ${root}`);
      await untilEnded(signal, walk(session, root, asking, lines));
    }
  } finally {
    session.close();
  }
  if (lines.length === 0) throw new NotRead("the device has none of the supported tables", false);
  return [fileOf(target, "walk.txt", `${lines.join("\n")}\n`)];
};

/** A session that survives any datagram: the package parses them where exceptions cannot be caught. Malformed answers
 * count as none; a device that sends nothing else times out. */
function guarded(session: Session): Session {
  const inner = session as unknown as { dgram: Socket; onMsg(message: Buffer, from: RemoteInfo): void };
  session.on("error", () => {});
  inner.dgram.removeAllListeners("message");
  inner.dgram.on("message", (message, from) => {
    try {
      inner.onMsg(message, from);
    } catch {
      // Not an answer.
    }
  });
  return session;
}

function sessionOf({ target, secret, limits }: Asking): Session {
  const transport = target.address.includes(":") ? ("udp6" as const) : ("udp4" as const);
  const options = { port: target.port, transport, timeout: Math.min(limits.answerMs, 3000), retries: 1 };
  if (secret.way === "snmp-v2c")
    return guarded(
      snmp.createSession(target.address, secret.community, { ...options, version: snmp.Version2c }),
    );
  if (secret.way !== "snmp-v3") throw new NotRead("the credentials are for another protocol", false);
  return guarded(
    snmp.createV3Session(target.address, userOf(secret), { ...options, version: snmp.Version3 }),
  );
}

function userOf(secret: Extract<Secret, { way: "snmp-v3" }>) {
  const { user: name, auth, authWord, privacyWord } = secret;
  const { noAuthNoPriv, authNoPriv, authPriv } = snmp.SecurityLevel;
  if (authWord === "") return { name, level: noAuthNoPriv };
  const authenticated = { name, authProtocol: snmp.AuthProtocols[auth], authKey: authWord };
  return privacyWord === ""
    ? { ...authenticated, level: authNoPriv }
    : { ...authenticated, level: authPriv, privProtocol: snmp.PrivProtocols.aes, privKey: privacyWord };
}

/** Walks the subtree below an identifier, row by row in ascending order. */
function walk(session: Session, root: string, { meter }: Asking, lines: string[]): Promise<void> {
  let last: readonly number[] = [];
  let failed: Error | null = null;
  return new Promise((resolve, reject) => {
    const feed = (rows: Varbind[]): boolean => {
      try {
        for (const row of rows) {
          const line = lineOf(row);
          if (line === null) continue;
          meter.take(line.length + 1);
          const at = row.oid.split(".").map(Number);
          // A table whose rows do not rise has no end.
          if (!rises(last, at)) throw new NotRead(`the tables do not end: ${row.oid} is repeated`, false);
          last = at;
          lines.push(line);
        }
        return false;
      } catch (error) {
        failed = error as Error;
        return true;
      }
    };
    session.subtree(root, AT_ONCE, feed, (error) => {
      if (failed) reject(failed);
      else if (error) reject(told(error));
      else resolve();
    });
  });
}

function rises(before: readonly number[], now: readonly number[]): boolean {
  for (let i = 0; i < Math.max(before.length, now.length); i++) {
    const [a, b] = [before[i] ?? -1, now[i] ?? -1];
    if (a !== b) return a < b;
  }
  return false;
}

/** A row as a line of a walk; null for one that says that there is nothing. */
function lineOf({ oid, type, value }: Varbind): string | null {
  const { ObjectType } = snmp;
  switch (type) {
    case ObjectType.OctetString:
      return `.${oid} = ${octets(Buffer.isBuffer(value) ? value : Buffer.from(String(value)))}`;
    case ObjectType.OID:
      return `.${oid} = OID: .${value}`;
    case ObjectType.Integer:
      return `.${oid} = INTEGER: ${value}`;
    case ObjectType.Gauge:
      return `.${oid} = Gauge32: ${value}`;
    case ObjectType.IpAddress:
      return `.${oid} = IpAddress: ${value}`;
    case ObjectType.NoSuchObject:
    case ObjectType.NoSuchInstance:
    case ObjectType.EndOfMibView:
      return null;
    default:
      return `.${oid} = STRING: "${String(value).replaceAll(/[^\x20-\x7e]/g, "?")}"`;
  }
}

/** Printable octets are text, others pairs of hexadecimal digits. */
function octets(value: Buffer): string {
  const printable = value.every((octet) => octet >= 0x20 && octet < 0x7f && octet !== 0x22);
  if (printable) return `STRING: "${value.toString("latin1")}"`;
  const utf8 = value.toString("utf8");
  const isText = !utf8.includes("\ufffd") && !/[\p{Cc}"]/u.test(utf8);
  return isText
    ? `STRING: "${utf8}"`
    : `Hex-STRING: ${[...value].map((n) => n.toString(16).padStart(2, "0")).join(" ")}`;
}

function told(error: Error): NotRead {
  const { name } = error;
  if (name === "RequestTimedOutError") return new NotRead("the device does not respond", true);
  if (/authentication|usm|unknown user|digest|not in time/i.test(error.message))
    return new NotRead("user or passphrases rejected", false);
  // The package's messages quote the request, including the community: they are not passed on.
  return new NotRead("the answer cannot be read", true);
}
