import { type ChildProcess, spawn } from "node:child_process";

/** A command that iproute2 rejected, with its message. */
export interface Refused {
  readonly line: string;
  readonly why: string;
}

interface Waiting {
  readonly mark: number;
  readonly first: number;
  readonly lines: readonly string[];
  readonly done: (refused: Refused[]) => void;
}

/** A long-running iproute2 that receives lines: a change reaches the kernel within a millisecond, while a new process
 * takes several. Errors refer to line numbers. */
export class Commands {
  private readonly process: ChildProcess;
  private line = 0;
  private heard = "";
  private said: string[] = [];
  private refused = new Map<number, string>();
  private waiting: Waiting[] = [];

  /** In a namespace, which must be there, or in the one of this process. */
  constructor(namespace: string | null) {
    const place = namespace ? ["-n", namespace] : [];
    this.process = spawn("ip", [...place, "-force", "-batch", "-"], { stdio: ["pipe", "ignore", "pipe"] });
    this.process.stderr?.on("data", (data) => this.hear(String(data)));
    // If it ends early, waiting callers are released.
    this.process.stdin?.on("error", () => {});
    this.process.on("exit", () => {
      for (const { lines, done } of this.waiting.splice(0))
        done(lines.map((line) => ({ line, why: "iproute2 has ended" })));
    });
  }

  /** Gives lines; resolves when the kernel has them, with those that it refused. */
  run(lines: readonly string[]): Promise<Refused[]> {
    const first = this.line + 1;
    // A question that is always refused, loudly: whatever stands before it is done.
    const mark = this.line + lines.length + 1;
    this.line = mark;
    const answer = new Promise<Refused[]>((done) => this.waiting.push({ mark, first, lines, done }));
    this.process.stdin?.write(`${[...lines, `link show dev mark-${mark}`].join("\n")}\n`);
    return answer;
  }

  private hear(text: string) {
    const lines = `${this.heard}${text}`.split("\n");
    this.heard = lines.pop() ?? "";
    for (const one of lines) {
      const number = /^Command failed \S*:(\d+)$/.exec(one)?.[1];
      if (number === undefined) this.said.push(one);
      else {
        this.refused.set(Number(number), this.said.splice(0).join(" "));
        this.settle(Number(number));
      }
    }
  }

  private settle(number: number) {
    if (this.waiting[0]?.mark !== number) return;
    const { first, lines, done } = this.waiting.shift() as Waiting;
    const refused = lines.flatMap((line, i) => {
      const why = this.refused.get(first + i);
      return why === undefined ? [] : [{ line, why }];
    });
    this.refused.clear();
    done(refused);
  }

  end() {
    this.process.stdin?.end();
  }
}
