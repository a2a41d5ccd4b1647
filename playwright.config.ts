import { defineConfig } from "@playwright/test";
import { findChromium } from "./server/chromium.ts";

const port = Number(process.env.E2E_PORT ?? 3999);

/** Drives the built application in Debian's Chromium. bin/test gives the port and the database. */
export default defineConfig({
  testDir: "tests/e2e",
  outputDir: "test-results",
  projects: [
    // Once more where the machine was too busy to answer in time; bin/test names those that needed it.
    // A page lives too short for code that is compiled to run fast to pay: a sixth of all time went there.
    {
      name: "pages",
      testIgnore: "quiet/**",
      retries: 1,
      use: { launchOptions: browser(["--js-flags=--no-maglev,--no-opt"]) },
    },
    // What measures time; bin/test runs it when nothing else runs. The machine may be busy all the same: the best of three counts.
    { name: "quiet", testMatch: "quiet/**", workers: 1, retries: 2 },
  ],
  // One more than there are processors where there are two: each waits for a third of its time.
  workers: Number(process.env.E2E_WORKERS ?? 3),
  forbidOnly: Boolean(process.env.CI),
  timeout: 180_000,
  // On a machine that does much else at the same time an answer may take long; it must come, though.
  expect: { timeout: 40_000 },
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    screenshot: "only-on-failure",
    launchOptions: browser([]),
  },
  webServer: {
    command:
      "DATABASE_URL=$DATABASE_OWNER_URL node --import tsx server/prepare.ts && { node build/worker/main.js & } && exec node build/serve/main.js",
    url: `http://127.0.0.1:${port}/health`,
    env: {
      PORT: String(port),
      HOST: "127.0.0.1",
      NODE_ENV: "production",
      LOG_LEVEL: process.env.LOG_LEVEL ?? "warn",
      // As bin/start does: tables are made by their owner, and what serves requests reads and writes rows alone.
      DATABASE_URL: process.env.DATABASE_DATA_URL ?? process.env.DATABASE_URL ?? "",
      DATABASE_OWNER_URL: process.env.DATABASE_OWNER_URL ?? process.env.DATABASE_URL ?? "",
      // Stand-ins for devices answer on loopback; the key is good for nothing but these tests.
      IRON_FORK_READS: "127.0.0.0/8",
      IRON_FORK_KEY: "0123456789abcdef".repeat(4),
    },
    reuseExistingServer: false,
    stdout: "ignore",
  },
});

/** How Debian's Chromium is started, with options of its own besides. */
function browser(more: readonly string[]) {
  return {
    executablePath: findChromium() ?? undefined,
    args: [
      "--no-sandbox",
      "--disable-gpu",
      "--disable-quic",
      "--no-first-run",
      "--disable-background-networking",
      "--disable-component-update",
      "--disable-sync",
      ...more,
    ],
  };
}
