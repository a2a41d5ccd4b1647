import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    include: ["{core,exchange,cli,server,worker,app,tests}/**/*.test.{ts,tsx}"],
    testTimeout: 30_000,
    // Property tests run on the same seeds everywhere; a failing one is told with its own.
    setupFiles: ["tests/support/seed.ts"],
  },
});
