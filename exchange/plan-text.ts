import { type ParseError, parse as parseTolerantly } from "jsonc-parser";
import { parseDocument, stringify } from "yaml";
import { type Plan, type Reading, readPlan } from "../core/plan/index.ts";

/** The longest document that is read, in characters. */
export const MAX_TEXT = 64 * 1024 * 1024;

/**
 * Reads a plan from text, JSON or YAML. Text that cannot be a plan is refused before it is parsed,
 * so that rubbish of any size costs nothing.
 */
export function readPlanText(text: string): Reading {
  const start = text.slice(0, 1000).trimStart();
  if (text.trim() === "") return refuse("the document is empty; a plan starts with ironFork: 1");
  if (text.length > MAX_TEXT) {
    const megabytes = Math.ceil(text.length / 1024 / 1024);
    return refuse(
      `the document is too long: ${megabytes} MB, and ${MAX_TEXT / 1024 / 1024} MB are read at most`,
    );
  }
  if (text.includes("\u0000"))
    return refuse("this is not text: it holds a zero byte; a plan is JSON or YAML text");
  if (start.startsWith("{") || start.startsWith("[")) return readJson(text);
  if (!/^\s*["']?ironFork["']?\s*:/m.test(text)) {
    return refuse(
      "this is not a plan: no line says ironFork: 1, with which a plan in YAML gives its version",
    );
  }
  return readYaml(text);
}

function refuse(message: string, path = ""): Reading {
  return { ok: false, errors: [{ path, message }] };
}

function readJson(text: string): Reading {
  let document: unknown;
  try {
    document = JSON.parse(text);
  } catch {
    // The runtime does not always tell where; the tolerant reader does.
    const errors: ParseError[] = [];
    parseTolerantly(text, errors, { disallowComments: true, allowTrailingComma: false });
    const where = errors.length ? `: it breaks off at ${lineOf(text, errors[0].offset)}` : "";
    return refuse(`this is not valid JSON${where}`);
  }
  return readPlan(document);
}

function lineOf(text: string, position: number): string {
  const before = text.slice(0, position).split("\n");
  return `line ${before.length}, column ${(before.at(-1)?.length ?? 0) + 1}`;
}

function readYaml(text: string): Reading {
  const document = parseDocument(text, { maxAliasCount: 100, prettyErrors: true } as never);
  const [error] = document.errors;
  if (error) {
    const at = error.linePos?.[0];
    const message = error.message.split("\n")[0].replace(/ at line \d+, column \d+:?$/, "");
    return refuse(`this is not valid YAML${at ? `, line ${at.line}, column ${at.col}` : ""}: ${message}`);
  }
  try {
    return readPlan(document.toJS({ maxAliasCount: 100 }));
  } catch {
    return refuse("this YAML uses too many aliases to be a plan");
  }
}

/** Writes a plan as a document; empty lists and what is not set are left out. */
export function writePlanText(plan: Plan, format: "json" | "yaml"): string {
  const document = withoutEmpty(plan);
  if (format === "json") return `${JSON.stringify(document, null, 2)}\n`;
  return stringify(document, { lineWidth: 120, aliasDuplicateObjects: false });
}

function withoutEmpty(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withoutEmpty);
  if (typeof value !== "object" || value === null) return value;
  const kept = Object.entries(value).filter(
    ([, v]) => v !== undefined && !(Array.isArray(v) && v.length === 0),
  );
  return Object.fromEntries(kept.map(([key, v]) => [key, withoutEmpty(v)]));
}
