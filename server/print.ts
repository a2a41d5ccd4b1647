import { spawn } from "node:child_process";
import { mkdtemp, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { findChromium } from "./chromium.ts";

const LIMIT_MS = 60_000;

/** Printing is not possible; says what to do. */
export class CannotPrint extends Error {}

/** Prints an HTML document that needs nothing from elsewhere as PDF, by Chromium's own printing. */
export async function printPdf(html: string, signal: AbortSignal): Promise<Uint8Array> {
  const chromium = findChromium();
  if (!chromium)
    throw new CannotPrint(
      "There is no Chromium to print with. Install it (apt-get install chromium), or print the page from your browser.",
    );
  const folder = await mkdtemp(join(tmpdir(), "iron-fork-print-"));
  try {
    const [from, to] = [join(folder, "book.html"), join(folder, "book.pdf")];
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
        // What is printed is our own, with no scripts; as root Chromium has no sandbox to run in.
        ...(process.getuid?.() === 0 ? ["--no-sandbox"] : []),
        `--user-data-dir=${join(folder, "profile")}`,
        "--no-pdf-header-footer",
        `--print-to-pdf=${to}`,
        `file://${from}`,
      ],
      signal,
    );
    return await readFile(to);
  } finally {
    await rm(folder, { recursive: true, force: true, maxRetries: 3 });
  }
}

function run(program: string, args: readonly string[], signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    const child = spawn(program, args, { stdio: "ignore", signal, timeout: LIMIT_MS, killSignal: "SIGKILL" });
    child.on("error", reject);
    child.on("exit", (code) =>
      code === 0 ? resolve() : reject(new CannotPrint(`Chromium could not print it (exit code ${code}).`)),
    );
  });
}
