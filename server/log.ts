import pino from "pino";

/**
 * Log lines, JSON, to standard error and, where IRON_FORK_LOG names a file, to the end of that. Written at once, so
 * that the last line before an end is there; several processes and threads may share the file.
 */
export const log = pino(
  { level: process.env.LOG_LEVEL ?? "info", base: { pid: process.pid } },
  pino.multistream([
    { level: "trace", stream: pino.destination({ dest: 2, sync: true }) },
    ...(process.env.IRON_FORK_LOG
      ? [
          {
            level: "trace" as const,
            stream: pino.destination({
              dest: process.env.IRON_FORK_LOG,
              append: true,
              mkdir: true,
              sync: true,
            }),
          },
        ]
      : []),
  ]),
);

/** An error as log lines tell it. */
export function errorText(error: unknown): string {
  return error instanceof Error ? (error.stack ?? error.message) : String(error);
}
