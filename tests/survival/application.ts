import { type ChildProcess, spawn } from "node:child_process";
import { readdirSync, readFileSync } from "node:fs";
import { createServer } from "node:net";
import { fileURLToPath } from "node:url";

const root = fileURLToPath(new URL("../../", import.meta.url));

export async function freePort(): Promise<number> {
  const server = createServer();
  await new Promise<void>((done) => server.listen(0, "127.0.0.1", done));
  const { port } = server.address() as { port: number };
  await new Promise((done) => server.close(done));
  return port;
}

/** The application as bin/start runs it, with its own database in a folder. */
export class Application {
  readonly url: string;
  private process: ChildProcess | null = null;
  private said = "";

  constructor(
    readonly data: string,
    private readonly port: number,
  ) {
    this.url = `http://127.0.0.1:${port}`;
  }

  /** Starts it without waiting until it is there. */
  launch() {
    const { DATABASE_URL: _, ...env } = process.env;
    this.process = spawn("bash", ["bin/start", "--port", String(this.port)], {
      cwd: root,
      env: {
        ...env,
        IRON_FORK_DATA: this.data,
        CLUSTER_PORT: String(56_000 + (this.port % 3000)),
        LOG_LEVEL: "warn",
      },
      detached: true,
      stdio: ["ignore", "pipe", "pipe"],
    });
    this.process.stdout?.on("data", (part) => (this.said += part));
    this.process.stderr?.on("data", (part) => (this.said += part));
  }

  async start() {
    this.launch();
    await this.isReady(150_000);
  }

  /** Waits until it answers, its database too. */
  async isReady(withinMs: number) {
    const until = Date.now() + withinMs;
    for (;;) {
      const response = await fetch(`${this.url}/ready`, { signal: AbortSignal.timeout(5000) }).catch(
        () => null,
      );
      if (response?.ok) return;
      if (Date.now() > until) throw new Error(`it is missing on the device; it said:\n${this.said}`);
      await new Promise((done) => setTimeout(done, 100));
    }
  }

  /** Processes of it whose command line begins so. */
  processes(command: string): number[] {
    return descendants(this.process?.pid ?? -1).filter((pid) => commandOf(pid).startsWith(command));
  }

  databaseProcess(): number {
    return Number(readFileSync(`${this.data}/data/postmaster.pid`, "utf8").split("\n")[0]);
  }

  kill(command: string) {
    const [pid] = this.processes(command);
    if (pid === undefined) throw new Error(`no process of it is ${command}`);
    process.kill(pid, "SIGKILL");
  }

  /** Ends everything of it at once, as a machine that loses its power does. */
  killAll() {
    for (const pid of [this.process?.pid ?? -1, ...descendants(this.process?.pid ?? -1)]) {
      try {
        process.kill(pid, "SIGKILL");
      } catch {
        // It had already exited.
      }
    }
  }

  /** Tells it to end; how long that took, in milliseconds. */
  async stop(): Promise<number> {
    const running = this.process;
    if (!running || running.exitCode !== null) return 0;
    const started = Date.now();
    const ended = new Promise((done) => running.once("exit", done));
    running.kill("SIGTERM");
    await ended;
    return Date.now() - started;
  }
}

function commandOf(pid: number): string {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, "utf8").replaceAll("\0", " ");
  } catch {
    return "";
  }
}

function descendants(of: number): number[] {
  const parents = new Map<number, number>();
  for (const name of readdirSync("/proc")) {
    if (!/^\d+$/.test(name)) continue;
    try {
      const stat = readFileSync(`/proc/${name}/stat`, "utf8");
      parents.set(Number(name), Number(stat.slice(stat.lastIndexOf(")") + 2).split(" ")[1]));
    } catch {
      // It has ended meanwhile.
    }
  }
  const found: number[] = [];
  const open = [of];
  for (let at = open.pop(); at !== undefined; at = open.pop()) {
    for (const [pid, parent] of parents) {
      if (parent !== at) continue;
      found.push(pid);
      open.push(pid);
    }
  }
  return found;
}
