import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    include: ["{core,exchange,live,lab,stand-ins,cli,server,worker,app,tests}/**/*.test.{ts,tsx}"],
    testTimeout: 30_000,
    // The comparison with the kernel and the survival test mostly wait.
    maxWorkers: 2,
    maxConcurrency: 3,
    // Property tests run on a fresh seed each time; bin/test prints it, and a failing one is told with its own.
    setupFiles: ["tests/support/seed.ts"],
  },
});
