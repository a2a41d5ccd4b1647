import { type ChildProcess, execFileSync, spawn } from "node:child_process";
import { randomBytes } from "node:crypto";
import { createServer } from "node:net";
import { fileURLToPath } from "node:url";
import pg from "pg";

const root = fileURLToPath(new URL("../../", import.meta.url));

async function freePort(): Promise<number> {
  const server = createServer();
  await new Promise<void>((done) => server.listen(0, "127.0.0.1", done));
  const { port } = server.address() as { port: number };
  await new Promise((done) => server.close(done));
  return port;
}

/** The application for several users: a separate server and database beside those of all other tests. */
export class SharedServer {
  private readonly name = `shared_${randomBytes(6).toString("hex")}`;
  private server: ChildProcess | null = null;
  private readonly given = process.env.DATABASE_URL as string;
  port = 0;

  /** By its name, not its address: passkeys are for names alone. */
  get origin(): string {
    return `http://localhost:${this.port}`;
  }

  /** The database's address for a role; by default the superuser. */
  private urlAs(given: string | undefined): string {
    const own = new URL(given ?? this.given);
    own.pathname = `/${this.name}`;
    return own.href;
  }

  private get env(): NodeJS.ProcessEnv {
    return {
      ...process.env,
      DATABASE_URL: this.urlAs(process.env.DATABASE_DATA_URL),
      NODE_ENV: "production",
      LOG_LEVEL: "error",
      DATABASE_CONNECTIONS: "3",
    };
  }

  private async ask(statement: string) {
    const client = new pg.Client(this.given);
    await client.connect();
    await client.query(statement);
    await client.end();
  }

  /** Makes the database and takes a port, at which nothing answers yet. */
  async prepare() {
    const owner = process.env.DATABASE_OWNER_URL ? " owner iron_fork_owner" : "";
    await this.ask(`create database ${this.name}${owner}`);
    this.port = await freePort();
    execFileSync("node", ["--import", "tsx", "server/prepare.ts"], { cwd: root, env: this.ownerEnv });
  }

  private get ownerEnv(): NodeJS.ProcessEnv {
    return { ...this.env, DATABASE_URL: this.urlAs(process.env.DATABASE_OWNER_URL) };
  }

  async serve(more: NodeJS.ProcessEnv) {
    const env = { ...this.env, HOST: "127.0.0.1", PORT: String(this.port), ...more };
    this.server = spawn("node", ["build/serve/main.js"], {
      cwd: root,
      env,
      stdio: ["ignore", "ignore", "inherit"],
    });
    for (let n = 0; n < 150; n++) {
      const response = await fetch(`http://127.0.0.1:${this.port}/ready`).catch(() => null);
      if (response?.ok) return;
      await new Promise((done) => setTimeout(done, 200));
    }
    throw new Error("the shared server did not come up");
  }

  /** What a command of bin/ prints: the first words are the module that it runs. */
  command(module: string, ...args: string[]): string {
    return execFileSync("node", ["--import", "tsx", module, ...args], {
      cwd: root,
      env: this.ownerEnv,
      encoding: "utf8",
    });
  }

  async stop() {
    this.server?.kill();
    await new Promise((done) => this.server?.once("exit", done) ?? done(null));
    await this.ask(`drop database if exists ${this.name} with (force)`);
  }
}
