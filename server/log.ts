import pino from "pino";

/** How often lost lines are reported, in milliseconds. */
const TELL_EVERY_MS = 60_000;

/** A place for lines that stops nothing where it cannot be written: the disk may be full, or the pipe closed. */
function unfailing(stream: { write(line: string): unknown; on?(event: "error", act: () => void): unknown }) {
  let lost = 0;
  let toldMs = 0;
  stream.on?.("error", () => {});
  const write = (line: string) => {
    try {
      stream.write(line);
      if (lost > 0 && Date.now() - toldMs > TELL_EVERY_MS) {
        toldMs = Date.now();
        stream.write(
          `${JSON.stringify({ level: 40, time: Date.now(), msg: `${lost} lines could not be written` })}\n`,
        );
        lost = 0;
      }
    } catch {
      lost++;
    }
  };
  return { write };
}

const destination = (dest: number | string) =>
  unfailing(pino.destination({ dest, append: true, mkdir: true, sync: true }));

/**
 * Log lines, JSON, to standard error and, where IRON_FORK_LOG names a file, to the end of that. Written at once, so
 * that the last line before an end is there; several processes and threads may share the file.
 */
export const log = pino(
  { level: process.env.LOG_LEVEL ?? "info", base: { pid: process.pid } },
  pino.multistream([
    { level: "trace", stream: destination(2) },
    ...(process.env.IRON_FORK_LOG
      ? [{ level: "trace" as const, stream: destination(process.env.IRON_FORK_LOG) }]
      : []),
  ]),
);

/** An error as log lines tell it. */
export function errorText(error: unknown): string {
  return error instanceof Error ? (error.stack ?? error.message) : String(error);
}
