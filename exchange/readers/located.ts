import { getNodeValue, type Node, parseTree } from "jsonc-parser";
import type { Collector } from "../facts/index.ts";
import type { InputFile } from "./reader.ts";

/** An object of JSON text, with the line on which it begins. */
export interface Located {
  readonly value: unknown;
  readonly line: number;
  readonly text: string;
}

/** JSON text whose objects have positions. */
export class LocatedJson {
  private readonly lineStarts: number[] = [0];

  private constructor(
    private readonly text: string,
    private readonly root: Node,
  ) {
    for (let i = text.indexOf("\n"); i >= 0; i = text.indexOf("\n", i + 1)) this.lineStarts.push(i + 1);
  }

  /** Null where the text is no JSON. */
  private static parse(text: string): LocatedJson | null {
    try {
      JSON.parse(text);
    } catch {
      return null;
    }
    const root = parseTree(text);
    return root ? new LocatedJson(text, root) : null;
  }

  /** Reads a file's JSON; if it is malformed, reports that for the file. */
  static read({ name, text }: InputFile, into: Collector): LocatedJson | null {
    const json = LocatedJson.parse(text);
    if (!json)
      into.fate(
        { file: name, line: 1, text },
        "not-understood",
        "this is not valid JSON: it ends unexpectedly",
      );
    return json;
  }

  get value(): unknown {
    return getNodeValue(this.root);
  }

  /** The elements of the list at a path; empty without a list. */
  elements(path: readonly (string | number)[] = []): Located[] {
    const list = this.at(path);
    return list?.type === "array" ? (list.children ?? []).map((node) => this.located(node)) : [];
  }

  /** The line on which the value at a path begins, and its text. */
  place(path: readonly (string | number)[]): { line: number; text: string } {
    const node = this.at(path) ?? this.root;
    const { line, text } = this.located(node);
    return { line, text };
  }

  private at(path: readonly (string | number)[]): Node | undefined {
    let node: Node | undefined = this.root;
    for (const key of path) {
      if (node?.type === "array") node = node.children?.[Number(key)];
      else if (typeof key === "number") return node;
      else node = node?.children?.find((property) => property.children?.[0].value === key)?.children?.[1];
    }
    return node;
  }

  private located(node: Node): Located {
    const text = this.text.slice(node.offset, node.offset + node.length).replace(/\s+/g, " ");
    return { value: getNodeValue(node), line: this.lineOf(node.offset), text };
  }

  private lineOf(offset: number): number {
    let low = 0;
    let high = this.lineStarts.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (this.lineStarts[middle] <= offset) low = middle;
      else high = middle - 1;
    }
    return low + 1;
  }
}
