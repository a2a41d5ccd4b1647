import { findNodeAtLocation, parseTree } from "jsonc-parser";
import { isMap, isNode, isSeq, LineCounter, parseDocument } from "yaml";

/** The line, from 1, at which a path of a document stands; where the path leads farther than the document, its last part that is there. */
export function lineFinder(text: string): (path: string) => number {
  const json = /^\s*[{[]/.test(text);
  const find = json ? jsonOffsets(text) : yamlOffsets(text);
  const starts = lineStarts(text);
  return (path) => {
    const offset = find(partsOf(path));
    let [low, high] = [0, starts.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (starts[middle] <= offset) low = middle;
      else high = middle - 1;
    }
    return low + 1;
  };
}

/** "devices[2].routes[0].to" as its parts. */
function partsOf(path: string): (string | number)[] {
  return [...path.matchAll(/\[(\d+)\]|([^.[\]]+)/g)].map(([, index, key]) =>
    index === undefined ? key : Number(index),
  );
}

function lineStarts(text: string): number[] {
  const starts = [0];
  for (let at = text.indexOf("\n"); at >= 0; at = text.indexOf("\n", at + 1)) starts.push(at + 1);
  return starts;
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
  const document = parseDocument(text, {
    prettyErrors: false,
    uniqueKeys: false,
    lineCounter: new LineCounter(),
  });
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
