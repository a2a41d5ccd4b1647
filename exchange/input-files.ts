import { readdirSync, readFileSync, statSync } from "node:fs";
import { basename, join } from "node:path";
import { isArchive, UnreadableArchive, unpack } from "./archive.ts";
import type { InputFile } from "./readers/index.ts";

/** Bytes of input that are taken at once. */
const MAX_INPUT = 50 * 1024 * 1024;

/** A file or folder that cannot be read, in a sentence. */
export class UnreadableInput extends Error {}

/** All files under paths, each named so that its folder can tell whose it is. */
export function inputFiles(paths: readonly string[]): InputFile[] {
  const files: InputFile[] = [];
  let size = 0;
  const take = (path: string, name: string) => {
    const bytes = readFileSync(path);
    size += bytes.length;
    if (size > MAX_INPUT)
      throw new UnreadableInput(`more than ${MAX_INPUT / 1024 / 1024} MB of input; read it in parts`);
    if (isArchive(bytes)) {
      files.push(...unpack(name, bytes));
      return;
    }
    // Binary files, such as a picture beside the lists, are reported by their reader as not understood.
    files.push({ name, text: bytes.toString("utf8").replace(/^\uFEFF/, "") });
  };
  const walk = (folder: string, name: string) => {
    for (const entry of readdirSync(folder, { withFileTypes: true }).sort((a, b) =>
      a.name < b.name ? -1 : 1,
    )) {
      if (entry.name.startsWith(".")) continue;
      const [path, inner] = [join(folder, entry.name), `${name}/${entry.name}`];
      if (entry.isDirectory()) walk(path, inner);
      else if (entry.isFile()) take(path, inner);
    }
  };
  for (const path of paths) {
    try {
      if (statSync(path).isDirectory()) walk(path, basename(path) || ".");
      else take(path, path);
    } catch (error) {
      if (error instanceof UnreadableInput) throw error;
      if (error instanceof UnreadableArchive) throw new UnreadableInput(error.message);
      const code = (error as NodeJS.ErrnoException).code;
      throw new UnreadableInput(
        `cannot read ${path}: ${code === "ENOENT" ? "there is no such file or folder" : String(error)}`,
      );
    }
  }
  return files;
}
