import { strFromU8, strToU8, unzipSync, zipSync } from "fflate";
import type { InputFile } from "./readers/index.ts";
import type { OutputFile } from "./writers/output-file.ts";

/** Bytes of all files in an archive, unpacked. */
const MAX_BYTES = 50 * 1024 * 1024;

/** An archive that cannot be unpacked; the message is a sentence. */
export class UnreadableArchive extends Error {}

/** An archive whose contents exceed the limit. */
export class TooLargeArchive extends UnreadableArchive {}

/** Whether bytes are a ZIP archive, whatever the file is called. */
export function isArchive(bytes: Uint8Array): boolean {
  return bytes.length > 4 && bytes[0] === 0x50 && bytes[1] === 0x4b && (bytes[2] === 3 || bytes[2] === 5);
}

/** The files in a ZIP archive, named with their folders. @throws UnreadableArchive above 50 MB unpacked, or if it is broken */
export function unpack(name: string, bytes: Uint8Array): InputFile[] {
  let size = 0;
  const wanted = ({ name: inner, originalSize }: { name: string; originalSize: number }) => {
    if (inner.endsWith("/") || /(^|\/)(\.|__MACOSX)/.test(inner)) return false;
    size += originalSize;
    if (size > MAX_BYTES)
      throw new TooLargeArchive(`${name} contains more than ${MAX_BYTES / 1024 / 1024} MB; divide it`);
    return true;
  };
  try {
    const files = Object.entries(unzipSync(bytes, { filter: wanted }));
    return files.map(([inner, content]) => ({ name: inner, text: strFromU8(content) }));
  } catch (error) {
    if (error instanceof UnreadableArchive) throw error;
    throw new UnreadableArchive(`${name} is not a readable ZIP archive: ${(error as Error).message}`);
  }
}

/** Files as one ZIP archive. */
export function pack(files: readonly OutputFile[]): Uint8Array<ArrayBuffer> {
  const entries = Object.fromEntries(files.map(({ name, text }) => [name, strToU8(text)]));
  return zipSync(entries) as Uint8Array<ArrayBuffer>;
}
