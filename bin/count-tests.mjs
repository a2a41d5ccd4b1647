// Prints "passed failed skipped" from a test runner's JSON report. Used by bin/test.
import { readFileSync } from "node:fs";

const [, , kind, path] = process.argv;
const report = JSON.parse(readFileSync(path, "utf8"));
const counts =
  kind === "vitest"
    ? [
        report.numPassedTests,
        report.numFailedTests + report.numFailedTestSuites * Number(report.numFailedTests === 0),
        report.numPendingTests,
      ]
    : [
        report.stats.expected + report.stats.flaky,
        report.stats.unexpected + report.errors.length,
        report.stats.skipped,
      ];
// What passed only when it was tried again is named, and goes on being looked into.
const again = (suite) => [
  ...(suite.specs ?? []).filter(({ tests }) => tests.some(({ status }) => status === "flaky")),
  ...(suite.suites ?? []).flatMap(again),
];
for (const { title } of (kind === "vitest" ? [] : report.suites).flatMap(again))
  console.error(`  passed at another try: ${title}`);
// A runner that ran nothing has not passed.
if (counts[0] + counts[1] === 0) counts[1] = 1;
console.log(counts.join(" "));
