import { createHash } from "node:crypto";
import type { Log, Result as SarifResult } from "sarif";
import type { Severity } from "../../core/findings/index.ts";
import { lineFinder } from "./lines.ts";
import type { Report, Result } from "./report.ts";

const levels: Record<Severity, SarifResult.level> = { error: "error", warning: "warning", advice: "note" };

/** A report as a SARIF log (OASIS Static Analysis Results Interchange Format 2.1.0): each result at its line of the
 * plan's file. Accepted results are marked as suppressed (section 3.35). `text` is the file's content. */
export function sarifText({ command, file, rules, results }: Report, text: string): string {
  const lineOf = results.length > 0 ? lineFinder(text) : () => 1;
  const index = new Map(rules.map(({ id }, n) => [id, n]));
  const log: Log = {
    $schema: "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json",
    version: "2.1.0",
    runs: [
      {
        tool: {
          driver: {
            name: "Iron Fork",
            rules: rules.map(({ id, title }) => ({ id, shortDescription: { text: title } })),
          },
        },
        automationDetails: { id: `iron-fork/${command}/` },
        columnKind: "utf16CodeUnits",
        results: results.map((result) => ({
          ruleId: result.rule,
          ruleIndex: index.get(result.rule) ?? -1,
          level: levels[result.level],
          message: { text: result.text },
          locations: [
            {
              physicalLocation: {
                artifactLocation: { uri: encodeURI(file.replaceAll("\\", "/")) },
                region: { startLine: lineOf(result.path) },
              },
            },
          ],
          partialFingerprints: { "ironFork/v1": fingerprint(result) },
          ...(result.dismissed === undefined
            ? {}
            : { suppressions: [{ kind: "external" as const, justification: result.dismissed }] }),
        })),
      },
    ],
  };
  return JSON.stringify(log, null, 2);
}

/** The same for the same result whichever line it moves to. */
function fingerprint({ rule, subject }: Result): string {
  return createHash("sha256").update(`${rule}\n${subject}`).digest("hex").slice(0, 32);
}
