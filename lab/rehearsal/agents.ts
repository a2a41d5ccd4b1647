import { type ChildProcess, spawn } from "node:child_process";
import { once } from "node:events";
import { writeFileSync } from "node:fs";
import { createInterface } from "node:readline";
import { setTimeout as rest } from "node:timers/promises";
import type { AgentMessage, Word } from "../agent/orders.ts";
import type { Lab } from "../lab.ts";
import type { AgentSetup } from "./orders.ts";

/** However busy a machine is, an agent has answered by then. */
const PATIENCE_MS = 25_000;

/** The agent of one device, as the rehearsal sees it. */
export class AgentProcess {
  private readonly process: ChildProcess;
  private readonly failed: Promise<never>;
  private said = "";
  settled = false;
  up: Readonly<Record<string, boolean>> = {};
  /** What watches and virtual routers did, as it came. */
  readonly happened: Extract<AgentMessage, { tell: "watch" | "virtual" }>[] = [];
  private ended: ((told: Extract<AgentMessage, { tell: "end" }>) => void) | null = null;
  private started: (() => void) | null = null;
  private silenced: (() => void) | null = null;
  readonly ready: Promise<unknown>;

  constructor(
    lab: Lab,
    readonly seat: AgentSetup,
    program: string,
    folder: string,
  ) {
    const file = `${folder}/${seat.device}.json`;
    writeFileSync(file, JSON.stringify(seat.orders));
    this.process = spawn(
      "ip",
      ["netns", "exec", lab.namespace(seat.device), process.execPath, program, file],
      {
        stdio: ["pipe", "pipe", "pipe"],
      },
    );
    this.process.stderr?.on("data", (data) => {
      this.said = `${this.said}${data}`.slice(-2000);
    });
    // Writes to an agent that has just died are lost; its end is reported below.
    this.process.stdin?.on("error", () => {});
    this.failed = once(this.process, "exit").then(([code]) => {
      throw new Error(`the agent of ${seat.device} ended: ${reasonIn(this.said) ?? `exit code ${code}`}`);
    });
    this.failed.catch(() => {});
    this.ready = this.orFail(
      new Promise<void>((resolve) => {
        this.started = resolve;
      }),
      "has started",
    );
    createInterface({ input: this.process.stdout as NodeJS.ReadableStream }).on("line", (line) =>
      this.hear(JSON.parse(line) as AgentMessage),
    );
  }

  /** What an agent is to say within `PATIENCE_MS`; it has ended, or hangs, where it does not. */
  private orFail<T>(wanted: Promise<T>, what: string): Promise<T> {
    const patience = new AbortController();
    const silent = rest(PATIENCE_MS, undefined, { signal: patience.signal }).then(() => {
      throw new Error(`the agent of ${this.seat.device} did not report that it ${what}: ${this.said.trim()}`);
    });
    silent.catch(() => {});
    return Promise.race([wanted, this.failed, silent]).finally(() => patience.abort());
  }

  private hear(told: AgentMessage) {
    if (told.tell === "ready") this.started?.();
    else if (told.tell === "settled") {
      this.settled = told.settled;
      this.up = told.up;
    } else if (told.tell === "silent") this.silenced?.();
    else if (told.tell === "end") this.ended?.(told);
    else this.happened.push(told);
  }

  say(word: Word) {
    this.process.stdin?.write(`${JSON.stringify(word)}\n`);
  }

  /** Its virtual routers of these ports, or of all, step back; resolves once they have said so. */
  shut(ports: readonly string[] | null): Promise<void> {
    return this.silence({ say: "shut", ports });
  }

  /** Its virtual routers stop without a word, all at once; resolves once they have. */
  die(): Promise<void> {
    return this.silence({ say: "die" });
  }

  private silence(word: Word): Promise<void> {
    const done = new Promise<void>((resolve) => {
      this.silenced = resolve;
    });
    this.say(word);
    return this.orFail(done, "has stopped its virtual routers");
  }

  /** Ends it, and returns its measurements. */
  end(): Promise<Extract<AgentMessage, { tell: "end" }>> {
    const last = new Promise<Extract<AgentMessage, { tell: "end" }>>((resolve) => {
      this.ended = resolve;
    });
    this.say({ say: "end" });
    return this.orFail(last, "has ended");
  }

  kill() {
    this.process.kill("SIGKILL");
  }
}

/** The error message of a Node program's output; null without one. */
function reasonIn(printed: string): string | null {
  const line = printed.split("\n").find((one) => /^[A-Za-z]{0,30}Error: /.test(one));
  return line ? line.slice(line.indexOf(": ") + 2).trim() : null;
}
