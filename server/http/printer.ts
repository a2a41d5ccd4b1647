import { type ChildProcess, spawn } from "node:child_process";
import { mkdtemp, readdir, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { findChromium } from "../chromium.ts";
import { errorText, log } from "../log.ts";

/** How long one document may take. */
const LIMIT_MS = 60_000;
/** How much memory Chromium's processes may have in all, in bytes. */
const MAX_MEMORY = 1536 * 1024 * 1024;
const LOOK_EVERY_MS = 250;
/** Documents that may wait. */
const MAX_WAITING = 8;
const PREFIX = "iron-fork-print-";

/** Printing is not possible; says what to do. */
export class CannotPrint extends Error {}

const TOO_LARGE =
  "The document is too large to print here. Open the page and print it from your browser, or export the plan.";

/** Prints documents as PDF with Chromium, one at a time, within limits of time and memory. When no client waits for a
 * document, all of Chromium's processes end. */
export class Printer {
  private last: Promise<unknown> = Promise.resolve();
  private waiting = 0;

  /** Removes what an earlier server, that was killed, has left behind. */
  async cleanUp(): Promise<void> {
    for (const name of await readdir(tmpdir()).catch(() => [])) {
      const owner = name.startsWith(PREFIX) ? Number(name.slice(PREFIX.length).split("-")[0]) : 0;
      if (owner > 0 && owner !== process.pid && !isRunning(owner))
        await rm(join(tmpdir(), name), { recursive: true, force: true }).catch(() => undefined);
    }
  }

  /** An HTML document that needs nothing from elsewhere, as PDF. Throws `CannotPrint` with the reason. */
  async print(html: Uint8Array, signal: AbortSignal): Promise<Buffer> {
    const chromium = findChromium();
    if (!chromium)
      throw new CannotPrint(
        "Chromium is not installed, so nothing can be printed here. Install it (apt-get install chromium), or print the page from your browser.",
      );
    if (this.waiting >= MAX_WAITING)
      throw new CannotPrint("Too many documents are waiting to be printed. Try again in a minute.");
    this.waiting++;
    const turn = this.last.then(() => (signal.aborted ? null : printOne(chromium, html, signal)));
    this.last = turn.catch(() => undefined);
    try {
      const pdf = await turn;
      if (!pdf) throw new CannotPrint("Nobody waits for the document any more.");
      return pdf;
    } finally {
      this.waiting--;
    }
  }
}

async function printOne(chromium: string, html: Uint8Array, signal: AbortSignal): Promise<Buffer> {
  const folder = await mkdtemp(join(tmpdir(), `${PREFIX}${process.pid}-`));
  try {
    const [from, to] = [join(folder, "document.html"), join(folder, "document.pdf")];
    await writeFile(from, html);
    await run(
      chromium,
      [
        "--headless",
        "--disable-gpu",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
        "--js-flags=--max-old-space-size=128",
        // Nothing is fetched from anywhere, whatever a document names.
        "--host-resolver-rules=MAP * ~NOTFOUND",
        // Printed documents are ours and have no scripts; as root Chromium cannot use its sandbox.
        ...(process.getuid?.() === 0 ? ["--no-sandbox"] : []),
        `--user-data-dir=${join(folder, "profile")}`,
        "--no-pdf-header-footer",
        `--print-to-pdf=${to}`,
        `file://${from}`,
      ],
      signal,
    );
    return await readFile(to);
  } catch (error) {
    if (error instanceof CannotPrint) throw error;
    log.error({ error: errorText(error) }, "printing failed");
    throw new CannotPrint("Chromium could not print the document. The log says why.");
  } finally {
    await rm(folder, { recursive: true, force: true, maxRetries: 5, retryDelay: 100 }).catch(() => undefined);
  }
}

/** Runs a program in its own process group, and kills the group at the limits or on the signal. */
function run(program: string, args: readonly string[], signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    // The group ends even if this server is killed meanwhile.
    const guarded = ["--signal=KILL", `${LIMIT_MS / 1000 + 5}`, program, ...args];
    const child = spawn("timeout", guarded, { stdio: "ignore", detached: true });
    let why: CannotPrint | null = null;
    const end = (reason: CannotPrint) => {
      why ??= reason;
      endGroup(child);
    };
    const onLeft = () => end(new CannotPrint("Nobody waits for the document any more."));
    const limit = setTimeout(() => end(new CannotPrint(TOO_LARGE)), LIMIT_MS);
    const watch = setInterval(async () => {
      if ((await memoryOf(child.pid ?? 0)) > MAX_MEMORY) end(new CannotPrint(TOO_LARGE));
    }, LOOK_EVERY_MS);
    signal.addEventListener("abort", onLeft, { once: true });
    child.on("error", reject);
    child.on("exit", (code) => {
      clearTimeout(limit);
      clearInterval(watch);
      signal.removeEventListener("abort", onLeft);
      // Whatever the program has left running ends with it.
      endGroup(child);
      if (why) reject(why);
      else if (code === 0) resolve();
      else reject(new Error(`Chromium ended with ${code}`));
    });
  });
}

function endGroup({ pid }: ChildProcess) {
  try {
    if (pid) process.kill(-pid, "SIGKILL");
  } catch {
    // It is gone.
  }
}

/** Bytes of memory that a process group has, as far as they are not shared among its processes. */
async function memoryOf(group: number): Promise<number> {
  let total = 0;
  for (const pid of await readdir("/proc").catch(() => [])) {
    if (!/^\d+$/.test(pid)) continue;
    const stat = await readFile(`/proc/${pid}/stat`, "utf8").catch(() => "");
    const fields = stat.slice(stat.lastIndexOf(")") + 2).split(" ");
    // Fields 5 and 6 of proc(5): process group and session. Field 24: resident pages.
    if (Number(fields[2]) !== group && Number(fields[3]) !== group) continue;
    const statm = await readFile(`/proc/${pid}/statm`, "utf8").catch(() => "0 0 0");
    const [, resident, shared] = statm.split(" ").map(Number);
    total += (resident - shared) * 4096;
  }
  return total;
}

function isRunning(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch {
    return false;
  }
}
