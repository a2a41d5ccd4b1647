import { useState } from "react";
import { isArchive, unpack } from "../../../../exchange/archive.ts";
import { Button } from "../../../ui/button.tsx";

/** A file as it was given; its name holds its folder, which may tell whose it is. */
export interface Given {
  name: string;
  text: string;
}

/** Characters of all files at most, as on the command line. */
const MOST = 50 * 1024 * 1024;

interface FilesGivenProps {
  files: readonly Given[];
  onFiles: (files: Given[]) => void;
}

/** Where files, a folder, or pasted text come in. */
export function FilesGiven({ files, onFiles }: FilesGivenProps) {
  const [over, setOver] = useState(false);
  const [error, setError] = useState("");
  const [text, setText] = useState("");
  const [name, setName] = useState("");
  const add = (more: Given[]) => {
    const kept = files.filter((file) => !more.some((other) => other.name === file.name));
    const next = [...kept, ...more];
    const size = next.reduce((sum, file) => sum + file.text.length, 0);
    if (size > MOST) return setError(`This is more than ${MOST / 1024 / 1024} MB; give it in parts.`);
    setError("");
    onFiles(next);
  };
  const attempt = (reading: Promise<Given[][]>) =>
    reading.then(
      (read) => add(read.flat()),
      (failed: Error) => setError(failed.message),
    );
  const take = async (list: Iterable<File>) => {
    await attempt(
      Promise.all([...list].map((file) => contentsOf(file, file.webkitRelativePath || file.name))),
    );
  };
  return (
    <section aria-label="What is read">
      <p className="text-ink-2">
        Drop what devices say: route and address tables of any layout, iproute2 and nftables output, the
        IETF's models, lists of interfaces, routes and cables; a ZIP archive of all that. It is read in the
        browser.
      </p>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: dropping is a shorter way to the file fields within. */}
      <div
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(event) => {
          event.preventDefault();
          setOver(false);
          void attempt(filesOf(event.dataTransfer.items));
        }}
        className={`mt-2 flex flex-wrap items-end gap-4 border-2 border-dashed p-3 ${over ? "border-ink bg-chosen-soft" : "border-rule"}`}
      >
        <label className="flex flex-col text-[13px] text-ink-2">
          Files
          <input type="file" multiple onChange={(event) => void take(event.target.files ?? [])} />
        </label>
        <label className="flex flex-col text-[13px] text-ink-2">
          A folder
          <input
            type="file"
            multiple
            ref={(input) => input?.setAttribute("webkitdirectory", "")}
            onChange={(event) => void take(event.target.files ?? [])}
          />
        </label>
        <form
          className="flex flex-wrap items-end gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            if (text.trim() === "") return;
            add([{ name: `${name.trim() || "pasted"}.txt`, text }]);
            setText("");
          }}
        >
          <label className="flex flex-col text-[13px] text-ink-2">
            Or paste what a device says
            <textarea
              rows={2}
              value={text}
              onChange={(event) => setText(event.target.value)}
              className="field addr w-72"
              spellCheck={false}
            />
          </label>
          <label className="flex flex-col text-[13px] text-ink-2">
            Which device
            <input value={name} onChange={(event) => setName(event.target.value)} className="field w-32" />
          </label>
          <Button type="submit">Read it</Button>
        </form>
        {files.length > 0 && <Button onClick={() => onFiles([])}>Put all away</Button>}
      </div>
      {error !== "" && (
        <p role="alert" className="mt-1 text-stop">
          {error}
        </p>
      )}
      {files.length > 0 && (
        <p className="mt-1 text-[13px] text-ink-2">
          {files
            .slice(0, 8)
            .map((file) => file.name)
            .join(", ")}
          {files.length > 8 ? ` and ${files.length - 8} more` : ""}
        </p>
      )}
    </section>
  );
}

/** Dropped files, those in dropped folders among them, each named with its folders. */
async function filesOf(items: DataTransferItemList): Promise<Given[][]> {
  const entries = [...items].flatMap((item) => item.webkitGetAsEntry() ?? []);
  return Promise.all(entries.map(inside));
}

/** What a file holds: its text, or the files of an archive. */
async function contentsOf(file: File, name: string): Promise<Given[]> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  return isArchive(bytes) ? unpack(name, bytes) : [{ name, text: new TextDecoder().decode(bytes) }];
}

async function inside(entry: FileSystemEntry): Promise<Given[]> {
  if (entry.isFile) {
    const file = await new Promise<File>((resolve, reject) =>
      (entry as FileSystemFileEntry).file(resolve, reject),
    );
    return contentsOf(file, entry.fullPath.replace(/^\//, ""));
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const found: Given[] = [];
  // A folder is told in parts, until one is empty.
  for (;;) {
    const part = await new Promise<FileSystemEntry[]>((resolve, reject) =>
      reader.readEntries(resolve, reject),
    );
    if (part.length === 0) return found;
    found.push(...(await Promise.all(part.map(inside))).flat());
  }
}
