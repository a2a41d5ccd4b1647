import { XMLParser, XMLValidator } from "fast-xml-parser";
import type { Reader } from "../reader.ts";
import { readDatastore } from "./datastore.ts";

/** Elements that stand once for each entry of a list, whatever the number of them. */
const lists = new Set([
  ...["interface", "address", "neighbor", "rib", "route", "control-plane-protocol"],
  ...["vrrp-instance", "virtual-ipv4-address", "virtual-ipv6-address"],
]);

const parser = new XMLParser({
  ignoreAttributes: true,
  removeNSPrefix: true,
  parseTagValue: false,
  // Entities that a document declares are never expanded; the five of XML itself, and characters by number, are.
  processEntities: false,
  tagValueProcessor: (_name, value) => decoded(value),
  ignoreDeclaration: true,
  ignorePiTags: true,
  isArray: (name, path) =>
    lists.has(name) && !/(?:next-hop\.address|track\.interfaces\.interface\.interface)$/.test(String(path)),
});

const ofXml: Readonly<Record<string, string>> = { amp: "&", lt: "<", gt: ">", quot: '"', apos: "'" };

/** XML 1.0, 4.1 and 4.6. Invalid references and characters are left unchanged. */
function decoded(text: string): string {
  return text.replace(/&(?:#(\d{1,7})|#x([0-9a-f]{1,6})|(\w{2,4}));/gi, (whole, decimal, hex, name) => {
    if (name !== undefined) return ofXml[name] ?? whole;
    const code = decimal === undefined ? Number.parseInt(hex, 16) : Number(decimal);
    return code > 0 && code <= 0x10ffff && !(code >= 0xd800 && code <= 0xdfff)
      ? String.fromCodePoint(code)
      : whole;
  });
}

/** The IETF's models as XML, as NETCONF carries them (RFC 6241). */
export const ietfXml: Reader = {
  kind: "IETF XML",
  recognises: ({ text }) =>
    /^\s*</.test(text) && text.includes("urn:ietf:params:xml:ns:yang:ietf-") ? 0.95 : 0,
  read(file, into) {
    const parsed = parse(file.text);
    if ("fault" in parsed) {
      const { line, fault } = parsed;
      const at = { file: file.name, line, text: file.text.split("\n")[line - 1] ?? "" };
      return into.fate(at, "not-understood", `this is not valid XML: ${fault}`);
    }
    const starts = new Starts(file.text);
    readDatastore(
      parsed.tree,
      (path, entry) => {
        const name = [...path].reverse().find((part): part is string => typeof part === "string") ?? "";
        const line = starts.next(name);
        return { file: file.name, line, text: `<${name}> ${JSON.stringify(entry)}` };
      },
      into,
    );
  },
};

/** The content of a text, or its error and line. */
function parse(text: string): { tree: unknown } | { line: number; fault: string } {
  const sound = XMLValidator.validate(text);
  if (sound !== true) return { line: sound.err.line, fault: sound.err.msg };
  try {
    return { tree: parser.parse(text) };
  } catch (error) {
    // What the validator lets pass: an instruction that is never closed, and what else the parser stumbles over.
    const open = text.lastIndexOf("<?");
    const at = open >= 0 && text.indexOf("?>", open) < 0 ? open : 0;
    return { line: text.slice(0, at).split("\n").length, fault: (error as Error).message };
  }
}

/** On which lines the elements of a name begin, asked for one after the other in the order of the text. */
class Starts {
  private readonly places = new Map<string, { lines: number[]; next: number }>();

  private readonly text: string;

  /** What a virtual router tracks is called as interfaces are: it is blanked, its lines kept. */
  constructor(text: string) {
    // Cut at the marks of elements of this name, whatever their prefix: inside and outside take turns.
    let inside = false;
    const pieces = text.split(/(<\/?(?:[\w-]{1,60}:)?track(?=[\s>]))/);
    this.text = pieces
      .map((piece, n) => {
        if (n % 2 === 1) inside = !piece.startsWith("</");
        return inside ? piece.replaceAll(/[^\n]/g, " ") : piece;
      })
      .join("");
  }

  next(name: string): number {
    let known = this.places.get(name);
    if (!known) {
      known = { lines: this.linesOf(name), next: 0 };
      this.places.set(name, known);
    }
    return known.lines[Math.min(known.next++, known.lines.length - 1)] ?? 1;
  }

  private linesOf(name: string): number[] {
    const lines: number[] = [];
    const opening = new RegExp(`<(?:[\\w-]+:)?${name.replace(/[^\w-]/g, "")}(?=[\\s>/])`, "g");
    let line = 1;
    let from = 0;
    for (const { index } of this.text.matchAll(opening)) {
      for (let i = this.text.indexOf("\n", from); i >= 0 && i < index; i = this.text.indexOf("\n", i + 1))
        line++;
      from = index;
      lines.push(line);
    }
    return lines;
  }
}
