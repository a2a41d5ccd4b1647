import { type ParseError, parse as parseTolerantly } from "jsonc-parser";
import { type Document, isNode, isScalar, Lexer, parseDocument, stringify, visit } from "yaml";
import { LIMITS, type Plan, type Reading, readPlan } from "../core/plan/index.ts";

/** Aliases that a document may expand. */
const MAX_ALIASES = 100;
/** Maximum indentation in columns: far more than a plan needs, and within the parser's limits. */
const MAX_INDENT = 400;

/** Reads a plan from JSON or YAML text. Text that cannot be a plan is refused before parsing, so that large garbage is
 * cheap. Linear in the text up to the point of refusal. */
export function readPlanText(text: string): Reading {
  const start = text.slice(0, 1000).trimStart();
  if (text.length > LIMITS.text) {
    const megabytes = Math.ceil(text.length / 1024 / 1024);
    return refuse(`the document is too long: ${megabytes} MB; the limit is ${LIMITS.text / 1024 / 1024} MB`);
  }
  if (text.trim() === "") return refuse("the document is empty; a plan contains `ironFork: 1`");
  if (text.includes("\u0000"))
    return refuse("this is not text: it contains a zero byte; a plan is JSON or YAML");
  if (start.startsWith("{") || start.startsWith("[")) return readJson(text);
  if (!/^[ \t]*["']?ironFork["']?[ \t]*:/m.test(text)) {
    return refuse("this is not a plan: the line `ironFork: 1` is missing");
  }
  return readYaml(text);
}

function refuse(message: string, path = ""): Reading {
  return { ok: false, errors: [{ path, message }] };
}

const TOO_DEEP = `this is not a plan: its objects and lists are nested deeper than ${LIMITS.depth}`;

function readJson(text: string): Reading {
  if (jsonDepth(text) > LIMITS.depth) return refuse(TOO_DEEP);
  let document: unknown;
  try {
    document = JSON.parse(text);
  } catch {
    // The runtime does not always give the position; the tolerant parser does.
    const errors: ParseError[] = [];
    parseTolerantly(text, errors, { disallowComments: true, allowTrailingComma: false });
    const where = errors.length ? `: it ends unexpectedly at ${lineOf(text, errors[0].offset)}` : "";
    return refuse(`this is not valid JSON${where}`);
  }
  return readPlan(document);
}

/** How deep the groups and lists of JSON text are nested, whether it is valid or not; counted up to the limit. */
function jsonDepth(text: string): number {
  let depth = 0;
  let deepest = 0;
  for (let i = 0; i < text.length && deepest <= LIMITS.depth; i++) {
    const c = text.charCodeAt(i);
    if (c === 0x22) {
      // A string up to its closing quote, skipping escapes.
      for (i++; i < text.length && text.charCodeAt(i) !== 0x22; i++) if (text.charCodeAt(i) === 0x5c) i++;
    } else if (c === 0x7b || c === 0x5b) deepest = Math.max(deepest, ++depth);
    else if (c === 0x7d || c === 0x5d) depth--;
  }
  return deepest;
}

function lineOf(text: string, position: number): string {
  const before = text.slice(0, position).split("\n");
  return `line ${before.length}, column ${(before.at(-1)?.length ?? 0) + 1}`;
}

function readYaml(text: string): Reading {
  if (isYamlTooDeep(text)) return refuse(TOO_DEEP);
  // Only the first error's position is computed, and duplicate keys are found below: the parser's own methods take
  // quadratic time.
  const document = parseDocument(text, { prettyErrors: false, uniqueKeys: false });
  const [error] = document.errors;
  if (error) return refuse(`this is not valid YAML, ${lineOf(text, error.pos[0])}: ${error.message}`);
  const bad = badKey(document);
  if (bad) return refuse(`this is not valid YAML, ${lineOf(text, bad.at)}: ${bad.why}`);
  let plain: unknown;
  try {
    plain = document.toJS({ maxAliasCount: MAX_ALIASES });
  } catch (failure) {
    const why = failure instanceof Error ? failure.message : String(failure);
    return refuse(
      /alias count/i.test(why)
        ? `this YAML expands more than ${MAX_ALIASES} aliases, more than a plan may use`
        : `this YAML cannot be read: ${why}`,
    );
  }
  return readPlan(plain);
}

/** The first key that its group has already, or that is no text; where it stands. */
function badKey(document: Document): { why: string; at: number } | null {
  let found: { why: string; at: number } | null = null;
  visit(document, {
    Map: (_, map) => {
      const seen = new Set<unknown>();
      for (const { key } of map.items) {
        if (!isScalar(key)) {
          found = {
            why: "keys must be text, not objects or lists",
            at: isNode(key) ? (key.range?.[0] ?? 0) : 0,
          };
          return visit.BREAK;
        }
        const { value } = key;
        if (seen.has(value)) {
          found = {
            why: `the key ${String(value).slice(0, 60)} appears twice in one object`,
            at: key.range?.[0] ?? 0,
          };
          return visit.BREAK;
        }
        seen.add(value);
      }
    },
  });
  return found;
}

/** Whether YAML nests deeper than a plan may, judged by tokens alone: open flow groups and lists, items that begin on
 * one line, and indentation. Parsing such text takes time quadratic in its depth. */
function isYamlTooDeep(text: string): boolean {
  let flow = 0;
  let onLine = 0;
  let lineStart = true;
  for (const token of new Lexer().lex(text)) {
    const [c] = token;
    if (c === "\n" || c === "\r") {
      onLine = 0;
      lineStart = true;
      continue;
    }
    if (lineStart && c === " ") {
      lineStart = false;
      if (token.length > MAX_INDENT && token.trim() === "") return true;
      continue;
    }
    lineStart = false;
    if (token === "{" || token === "[") flow++;
    else if (token === "}" || token === "]") flow = Math.max(0, flow - 1);
    else if (token === "-" || token === "?" || token === ":") onLine++;
    if (flow > LIMITS.depth || (flow === 0 && onLine > 2 * LIMITS.depth)) return true;
  }
  return false;
}

/** Writes a plan as a document without empty lists and unset values. `schema` is the location of the document's schema:
 * YAML names it in its first line, so that editors complete and check the text. */
export function writePlanText(plan: Plan, format: "json" | "yaml", schema = ""): string {
  const document = withoutEmpty(plan);
  if (format === "json") return `${JSON.stringify(document, null, 2)}\n`;
  const head = schema === "" ? "" : `# yaml-language-server: $schema=${schema}\n`;
  return head + stringify(document, { lineWidth: 120, aliasDuplicateObjects: false });
}

function withoutEmpty(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withoutEmpty);
  if (typeof value !== "object" || value === null) return value;
  const kept = Object.entries(value).filter(
    ([, v]) => v !== undefined && !(Array.isArray(v) && v.length === 0),
  );
  return Object.fromEntries(kept.map(([key, v]) => [key, withoutEmpty(v)]));
}
