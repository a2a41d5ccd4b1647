import { createHash } from "node:crypto";
import { Client, type ClientChannel } from "ssh2";
import { type Asking, untilEnded } from "../asking.ts";
import { connectionFailed, KeyNotConfirmed, NotRead } from "../failure.ts";

/** A connection over SSH to the device that is asked. Its host key must be the confirmed one; until then nothing is sent. */
export class Connection {
  private constructor(
    private readonly client: Client,
    private readonly asking: Asking,
  ) {}

  static async open(asking: Asking): Promise<Connection> {
    const { target, secret, limits, signal } = asking;
    if (secret.way !== "ssh" && secret.way !== "netconf")
      throw new NotRead("the credentials are for another protocol", false);
    const client = new Client();
    const connection = new Connection(client, asking);
    let refusal: NotRead | null = null;
    const opened = new Promise<void>((resolve, reject) => {
      client.on("ready", resolve);
      client.on("error", (error) => reject(refusal ?? told(error)));
      client.on("close", () => reject(refusal ?? new NotRead("the device closed the connection", true)));
      client.connect({
        host: target.address,
        port: target.port,
        username: secret.user,
        ...(secret.key === "" ? { password: secret.password } : { privateKey: secret.key }),
        readyTimeout: limits.answerMs,
        keepaliveInterval: limits.answerMs,
        keepaliveCountMax: 1,
        hostVerifier: (key: Buffer) => {
          const proof = createHash("sha256").update(key).digest("base64");
          if (target.proof === null) refusal = new KeyNotConfirmed(proof);
          else if (target.proof !== proof) refusal = unexpectedAnswer();
          return refusal === null;
        },
      });
    });
    try {
      await untilEnded(signal, opened);
    } catch (error) {
      connection.end();
      throw error instanceof NotRead || error === signal.reason ? error : told(error as Error);
    }
    client.on("error", () => {});
    return connection;
  }

  end() {
    this.client.on("error", () => {});
    this.client.destroy();
  }

  /** Runs a command, named `what` in errors, and returns its output and exit code. */
  run(command: string, what: string): Promise<{ text: string; code: number | null }> {
    return this.withChannel(
      (done) => this.client.exec(command, done),
      what,
      (channel, resolve, reject) => {
        const parts: Buffer[] = [];
        channel.on("data", this.metered(parts, reject));
        channel.stderr.on("data", (part: Buffer) => this.metered([], reject)(part));
        channel.on("close", (code: number | null) =>
          resolve({ text: Buffer.concat(parts).toString("utf8"), code }),
        );
      },
    );
  }

  /** Opens a subsystem (RFC 4254, 6.5), such as NETCONF's. */
  subsystem(name: string): Promise<ClientChannel> {
    return this.withChannel(
      (done) => this.client.subsys(name, done),
      `the subsystem ${name}`,
      (channel, resolve) => resolve(channel),
    );
  }

  /** Collects parts of an answer; above the limit, reading stops. */
  metered(parts: Buffer[], reject: (why: unknown) => void): (part: Buffer) => void {
    return (part) => {
      try {
        this.asking.meter.take(part.length);
        parts.push(part);
      } catch (error) {
        this.end();
        reject(error);
      }
    };
  }

  private withChannel<T>(
    open: (done: (error: Error | undefined, channel: ClientChannel) => void) => void,
    what: string,
    use: (channel: ClientChannel, resolve: (value: T) => void, reject: (why: unknown) => void) => void,
  ): Promise<T> {
    const { signal, limits } = this.asking;
    const work = new Promise<T>((resolve, reject) => {
      const late = setTimeout(() => reject(new NotRead(`no answer to ${what}`, true)), limits.answerMs);
      const settle = (act: () => void) => {
        clearTimeout(late);
        act();
      };
      this.client.on("close", () =>
        settle(() => reject(new NotRead("the device closed the connection", true))),
      );
      open((error, channel) => {
        if (error) return settle(() => reject(new NotRead(`the device rejects ${what}`, false)));
        use(
          channel,
          (value) => settle(() => resolve(value)),
          (why) => settle(() => reject(why)),
        );
      });
    });
    return untilEnded(signal, work);
  }
}

function unexpectedAnswer(): NotRead {
  return new NotRead(
    "the host key has changed: it may be another device. Remove the key if the change is expected",
    false,
  );
}

function told(error: Error & { level?: string; code?: string }): NotRead {
  if (error.level === "client-authentication") return new NotRead("user, key or password rejected", false);
  if (error.level === "client-timeout") return new NotRead("the device does not respond", true);
  if (/parse|key|passphrase/i.test(error.message) && error.level === undefined)
    return new NotRead("the private key of the credentials cannot be read", false);
  return connectionFailed(error);
}
