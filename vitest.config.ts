import { configDefaults, defineConfig } from "vitest/config";

const common = {
  testTimeout: 60_000,
  maxConcurrency: 3,
  // Property tests run on a fresh seed each time; bin/test prints it, and a failing one is told with its own.
  setupFiles: ["tests/support/seed.ts"],
};

/** What only computes: its files share what they load, which would else be loaded anew for each. */
const computing = "{core,exchange,cli,live}/**/*.test.ts";

/** Outages that happen in real time, in labs of their own. */
const rehearsals = "tests/rehearsals/**/*.test.ts";
/** Networks that are built out of namespaces, with servers in them. */
const kernel = "tests/kernel/**/*.test.ts";

export default defineConfig({
  test: {
    // The comparison with the kernel and the survival test mostly wait.
    maxWorkers: 2,
    projects: [
      { test: { ...common, name: "computing", include: [computing], isolate: false } },
      {
        test: {
          ...common,
          name: "all else",
          include: ["{lab,stand-ins,server,worker,app,tests}/**/*.test.{ts,tsx}"],
          exclude: [...configDefaults.exclude, rehearsals, kernel],
        },
      },
      { test: { ...common, name: "kernel", include: [kernel] } },
      // They wait for nearly all of their time. What happens in real time may fail on a machine that others use too: once more.
      { test: { ...common, name: "rehearsals", include: [rehearsals], maxConcurrency: 7, retry: 1 } },
    ],
  },
});
