import { type ChildProcess, execFileSync, spawn } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { request } from "node:http";
import { connect, createServer } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import pg from "pg";

const root = fileURLToPath(new URL("../../", import.meta.url));
/** Between the parts of a form: shorter ones are not taken by every reader. */
export const BOUNDARY = "a-boundary-between-the-parts-of-a-form";
const PASSWORD = "a lamp on the outer mole";

/** How a request was answered. */
export interface Answer {
  readonly status: number;
  readonly headers: Readonly<Record<string, string | string[] | undefined>>;
  readonly text: string;
  readonly ms: number;
}

export interface Asked {
  /** The browser's cookies, or a token. */
  readonly as?: Person | null;
  readonly body?: string | Buffer;
  readonly type?: string;
  readonly headers?: Readonly<Record<string, string>>;
  /** The address that the request comes from, of 127.0.0.0/8. */
  readonly from?: string;
  readonly timeoutMs?: number;
}

/** Somebody with a browser. */
export interface Person {
  readonly name: string;
  cookies: Map<string, string>;
}

export const stranger = (name: string): Person => ({ name, cookies: new Map() });

/** The application as served, with accounts, a worker, and its own database. */
export class Instance {
  readonly folder = mkdtempSync(join(tmpdir(), "iron-fork-attack-"));
  readonly log = join(this.folder, "log.jsonl");
  private readonly children: ChildProcess[] = [];
  private readonly name = `attack_${process.pid}`;
  port = 0;

  constructor(private readonly urls: { superuser: string; owner: string; data: string }) {}

  /** The same with another server's port. */
  at(port: number): Instance {
    return Object.assign(Object.create(this) as Instance, { port });
  }

  get origin(): string {
    return `http://127.0.0.1:${this.port}`;
  }

  urlAs(role: "superuser" | "owner" | "data"): string {
    const url = new URL(this.urls[role]);
    url.pathname = `/${this.name}`;
    return url.href;
  }

  env(more: NodeJS.ProcessEnv = {}): NodeJS.ProcessEnv {
    return {
      ...process.env,
      DATABASE_URL: this.urlAs("data"),
      NODE_ENV: "production",
      LOG_LEVEL: "info",
      IRON_FORK_LOG: this.log,
      IRON_FORK_KEY: "0f".repeat(32),
      IRON_FORK_READS: "127.0.0.0/8",
      IRON_FORK_HOOKS: "127.0.0.0/8",
      HOST: "127.0.0.1",
      PORT: String(this.port),
      ...more,
    };
  }

  async prepare() {
    await this.admin(`create database ${this.name} owner iron_fork_owner`);
    this.port = await freePort();
    this.run("server/prepare.ts");
  }

  /** Runs a module of the server's commands like bin/ does; returns its output. */
  run(module: string, ...args: string[]): string {
    return execFileSync("node", ["--import", "tsx", module, ...args], {
      cwd: root,
      env: this.env({ DATABASE_URL: this.urlAs("owner"), LOG_LEVEL: "warn" }),
      encoding: "utf8",
      stdio: ["ignore", "pipe", "inherit"],
    });
  }

  start(program: string, more: NodeJS.ProcessEnv = {}): ChildProcess {
    const child = spawn("node", [program], { cwd: root, env: this.env(more), stdio: "ignore" });
    this.children.push(child);
    return child;
  }

  async serve(more: NodeJS.ProcessEnv = {}): Promise<ChildProcess> {
    const child = this.start("build/serve/main.js", more);
    await this.untilReady(Number(more.PORT ?? this.port));
    return child;
  }

  async untilReady(port: number) {
    for (let n = 0; n < 150; n++) {
      const answer = await fetch(`http://127.0.0.1:${port}/ready`).catch(() => null);
      if (answer?.ok) return;
      await rest(100);
    }
    throw new Error("the application did not come up");
  }

  /** A request as it stands, its path not brought into any form. */
  ask(method: "GET" | "POST", path: string, asked: Asked = {}): Promise<Answer> {
    const { as = null, body, headers = {}, from, timeoutMs = 60_000 } = asked;
    const type = asked.type ?? (body === undefined ? undefined : "application/json");
    const cookie = as ? [...as.cookies].map(([name, value]) => `${name}=${value}`).join("; ") : "";
    const started = performance.now();
    return new Promise((resolve, reject) => {
      const sent = request(
        {
          host: "127.0.0.1",
          port: this.port,
          path,
          method,
          agent: false,
          localAddress: from,
          timeout: timeoutMs,
          headers: {
            ...(method === "POST" && { Origin: this.origin }),
            ...(type && { "Content-Type": type }),
            ...(cookie && { Cookie: cookie }),
            ...headers,
          },
        },
        (answer) => {
          const parts: Buffer[] = [];
          answer.on("data", (part: Buffer) => parts.push(part));
          answer.on("error", reject);
          answer.on("end", () => {
            for (const one of answer.headers["set-cookie"] ?? []) {
              const [name, value] = one.split(";")[0].split("=");
              as?.cookies.set(name, value);
            }
            const text = Buffer.concat(parts).toString("utf8");
            const ms = performance.now() - started;
            resolve({ status: answer.statusCode ?? 0, headers: answer.headers, text, ms });
          });
        },
      );
      sent.on("timeout", () => sent.destroy(new Error(`${method} ${path.slice(0, 80)}: no answer in time`)));
      sent.on("error", reject);
      sent.end(body);
    });
  }

  form(path: string, fields: Readonly<Record<string, string>>, asked: Asked = {}): Promise<Answer> {
    const body = new URLSearchParams(fields).toString();
    return this.ask("POST", path, { ...asked, body, type: "application/x-www-form-urlencoded" });
  }

  /** Sends raw bytes, and closes the connection `ms` milliseconds later. */
  async sendAndLeave(bytes: string, ms: number) {
    const socket = connect(this.port, "127.0.0.1");
    socket.on("error", () => {});
    await new Promise<void>((done) => socket.write(bytes, () => done()));
    await rest(ms);
    socket.destroy();
  }

  /** Follows a one-time link, and gives its account a password. */
  async take(link: string, name: string): Promise<Person> {
    const person = stranger(name);
    const secret = /\/invitation\/([\w-]{43})/.exec(link)?.[1];
    const answer = await this.form(
      `/invitation/${secret}`,
      { password: PASSWORD, again: PASSWORD },
      { as: person },
    );
    if (answer.status !== 302)
      throw new Error(`${name} did not come in: ${answer.status} ${answer.text.slice(0, 200)}`);
    return person;
  }

  async invite(by: Person, name: string, role: string): Promise<Person> {
    const made = await this.form("/accounts.data", { do: "invite", name, role }, { as: by });
    if (made.status !== 200) throw new Error(`${name} was not invited: ${made.text.slice(0, 200)}`);
    return this.take(made.text, name);
  }

  async newPlan(by: Person, document: unknown): Promise<string> {
    const body = `--${BOUNDARY}\r\nContent-Disposition: form-data; name="do"\r\n\r\nread\r\n--${BOUNDARY}\r\nContent-Disposition: form-data; name="text"\r\n\r\n${typeof document === "string" ? document : JSON.stringify(document)}\r\n--${BOUNDARY}--\r\n`;
    const made = await this.ask("POST", "/plans", {
      as: by,
      body,
      type: `multipart/form-data; boundary=${BOUNDARY}`,
    });
    const id = /\/plans\/(\d+)/.exec(String(made.headers.location ?? ""))?.[1];
    if (!id) throw new Error(`the plan was not taken: ${made.status} ${textIn(made.text)}`);
    return id;
  }

  async query<R extends pg.QueryResultRow>(
    statement: string,
    values: unknown[] = [],
    role: "owner" | "data" = "owner",
  ): Promise<R[]> {
    const client = new pg.Client({ connectionString: this.urlAs(role), options: "-c search_path=iron_fork" });
    await client.connect();
    try {
      return (await client.query<R>(statement, values)).rows;
    } finally {
      await client.end();
    }
  }

  logText(): string {
    return readFileSync(this.log, "utf8");
  }

  private async admin(statement: string) {
    const client = new pg.Client(this.urls.superuser);
    await client.connect();
    await client.query(statement);
    await client.end();
  }

  async stop(child: ChildProcess) {
    if (child.exitCode !== null || child.signalCode !== null) return;
    const gone = new Promise((done) => child.once("exit", done));
    child.kill("SIGTERM");
    await gone;
  }

  async end() {
    await Promise.all(this.children.map((child) => this.stop(child)));
    await this.admin(`drop database if exists ${this.name} with (force)`);
    rmSync(this.folder, { recursive: true, force: true });
  }
}

export const rest = (ms: number) => new Promise<void>((done) => setTimeout(done, ms));

export async function freePort(): Promise<number> {
  const server = createServer();
  await new Promise<void>((done) => server.listen(0, "127.0.0.1", done));
  const { port } = server.address() as { port: number };
  await new Promise((done) => server.close(done));
  return port;
}

/** Waits until something holds; throws where it does not in time. */
export async function until(what: string, holds: () => Promise<boolean> | boolean, withinMs = 10_000) {
  const end = performance.now() + withinMs;
  while (!(await holds())) {
    if (performance.now() > end) throw new Error(`${what}: not within ${withinMs} ms`);
    await rest(100);
  }
}

/** Throws the message unless the condition holds. */
export function expect(holds: boolean, otherwise: string) {
  if (!holds) throw new Error(otherwise);
}

/** What a page tells, without its marks. */
export function textIn(page: string): string {
  const at = page.indexOf("<body");
  const text = page
    .slice(Math.max(0, at), at + 1500)
    .split(/<[^>]*>/)
    .join(" ");
  return text.slice(0, 500);
}
