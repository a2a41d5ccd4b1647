import { XMLBuilder } from "fast-xml-parser";
import { xmlText } from "../../exchange/writers/xml.ts";
import type { Report, Result } from "./report.ts";

/** A report as JUnit XML: a test case per rule, failing with the results that fail the command; other results are in
 * the case's output, and a rule with only accepted results passes. */
export function junitText({ command, file, rules, results }: Report): string {
  const cases = rules.map(({ id, title }) => {
    const own = results.filter(({ rule }) => rule === id);
    const failing = own.filter(({ fails }) => fails);
    const passed = own.filter(({ fails }) => !fails);
    return {
      "@classname": `iron-fork.${command}`,
      "@name": xmlText(`${id}: ${title}`),
      ...(failing.length > 0 && {
        failure: {
          "@type": id,
          "@message": xmlText(failing.length === 1 ? failing[0].text : `${failing.length} of them`),
          "#text": xmlText(failing.map(lineOf).join("\n")),
        },
      }),
      ...(passed.length > 0 && { "system-out": xmlText(passed.map(lineOf).join("\n")) }),
    };
  });
  const counts = {
    "@name": xmlText(`${command} ${file}`),
    "@tests": cases.length,
    "@failures": cases.filter((one) => "failure" in one).length,
    "@errors": 0,
    "@skipped": 0,
  };
  const builder = new XMLBuilder({
    ignoreAttributes: false,
    attributeNamePrefix: "@",
    format: true,
    suppressEmptyNode: true,
  });
  const document = { testsuites: { "@name": "Iron Fork", testsuite: { ...counts, testcase: cases } } };
  return `<?xml version="1.0" encoding="UTF-8"?>\n${builder.build(document).trimEnd()}`;
}

function lineOf({ level, text, path, dismissed }: Result): string {
  return `${level}: ${text}${path ? ` (${path})` : ""}${dismissed === undefined ? "" : `; accepted: ${dismissed}`}`;
}
