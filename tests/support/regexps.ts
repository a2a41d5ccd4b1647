import { readdirSync, readFileSync, statSync } from "node:fs";
import { join } from "node:path";
import ts from "typescript";

/** A regular expression of the sources: where it stands, its pattern and flags. */
export interface FoundRegExp {
  readonly file: string;
  readonly line: number;
  readonly source: string;
  readonly flags: string;
}

/** The regular expression literals in the sources of some folders, without tests. */
export function regexpsIn(folders: readonly string[]): FoundRegExp[] {
  return folders.flatMap(filesIn).flatMap((file) => {
    const text = readFileSync(file, "utf8");
    const kind = file.endsWith("x") ? ts.ScriptKind.TSX : ts.ScriptKind.TS;
    const tree = ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true, kind);
    const found: FoundRegExp[] = [];
    const visit = (node: ts.Node) => {
      if (ts.isRegularExpressionLiteral(node)) {
        const end = node.text.lastIndexOf("/");
        const line = tree.getLineAndCharacterOfPosition(node.getStart()).line + 1;
        found.push({ file, line, source: node.text.slice(1, end), flags: node.text.slice(end + 1) });
      }
      ts.forEachChild(node, visit);
    };
    visit(tree);
    return found;
  });
}

function filesIn(folder: string): string[] {
  return readdirSync(folder).flatMap((name) => {
    const path = join(folder, name);
    if (statSync(path).isDirectory()) return filesIn(path);
    return /(?<!\.test)\.tsx?$/.test(name) ? [path] : [];
  });
}
