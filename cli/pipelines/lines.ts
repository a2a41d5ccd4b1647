import { findNodeAtLocation, parseTree } from "jsonc-parser";
import { isMap, isNode, isSeq, LineCounter, parseDocument } from "yaml";

/** The line, from 1, at which a path of a document stands; where the path leads farther than the document, its last part that is there. */
export function lineFinder(text: string): (path: string) => number {
  const json = /^\s*[{[]/.test(text);
  const find = json ? jsonOffsets(text) : yamlOffsets(text);
  const counter = new LineCounter();
  counter.addNewLine(0);
  for (let at = text.indexOf("\n"); at >= 0; at = text.indexOf("\n", at + 1)) counter.addNewLine(at + 1);
  return (path) => counter.linePos(find(partsOf(path))).line;
}

/** "devices[2].routes[0].to" as its parts. */
function partsOf(path: string): (string | number)[] {
  return [...path.matchAll(/\[(\d+)\]|([^.[\]]+)/g)].map(([, index, key]) =>
    index === undefined ? key : Number(index),
  );
}

type Find = (parts: readonly (string | number)[]) => number;

function jsonOffsets(text: string): Find {
  const root = parseTree(text);
  return (parts) => {
    for (let length = parts.length; root && length > 0; length--) {
      const node = findNodeAtLocation(root, parts.slice(0, length));
      if (node) return node.offset;
    }
    return 0;
  };
}

function yamlOffsets(text: string): Find {
  const document = parseDocument(text, { prettyErrors: false, uniqueKeys: false });
  return (parts) => {
    let node: unknown = document.contents;
    let offset = 0;
    for (const part of parts) {
      const next: unknown = isMap(node) || isSeq(node) ? node.get(part, true) : null;
      if (!isNode(next)) break;
      node = next;
      offset = next.range?.[0] ?? offset;
    }
    return offset;
  };
}
