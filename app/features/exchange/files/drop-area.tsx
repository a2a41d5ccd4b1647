import { useState } from "react";
import { isArchive, TooLargeArchive, unpack } from "../../../../exchange/archive.ts";
import { deviceByName, nameInText } from "../../../../exchange/device-names.ts";
import { Button } from "../../../ui/button.tsx";
import { FileButton } from "../../../ui/file-button.tsx";

/** A file as it was dropped or chosen. Its path may contain the device's name. */
export interface SourceFile {
  name: string;
  text: string;
  /** The device that it belongs to, if the user entered one. */
  device?: string;
}

/** Characters of all files, as on the command line. */
const MAX_TEXT = 50 * 1024 * 1024;
/** Files that are listed with their devices. */
const MAX_LISTED = 6;

interface DropAreaProps {
  files: readonly SourceFile[];
  onFiles: (files: SourceFile[]) => void;
  /** Called with each ZIP archive, which the server can import as well. */
  onArchive: (archive: File) => void;
}

/** One area for files, folders, ZIP archives and pasted text. It shrinks to a list of the files once there are any. */
export function DropArea({ files, onFiles, onArchive }: DropAreaProps) {
  const [over, setOver] = useState(false);
  const [error, setError] = useState("");
  const [text, setText] = useState("");
  const [typedName, setTypedName] = useState<string | null>(null);
  const name = typedName ?? nameInText(text);
  const add = (more: SourceFile[]) => {
    const kept = files.filter((file) => !more.some((other) => other.name === file.name));
    const next = [...kept, ...more];
    if (next.reduce((sum, file) => sum + file.text.length, 0) > MAX_TEXT)
      return setError(`More than ${MAX_TEXT / 1024 / 1024} MB of text. Import the files in parts.`);
    setError("");
    onFiles(next);
  };
  const attempt = async (reading: Promise<SourceFile[][]>) => {
    try {
      add((await reading).flat());
    } catch (failure) {
      setError(failure instanceof Error ? failure.message : String(failure));
    }
  };
  const choose = (list: FileList | null) =>
    void attempt(
      Promise.all(
        [...(list ?? [])].map((file) => contentsOf(file, file.webkitRelativePath || file.name, onArchive)),
      ),
    );
  const readText = () => {
    if (text.trim() === "") return setError("Paste the output of a device first.");
    const device = name.trim() || "pasted";
    const earlier = files.filter((file) => file.device === device).length;
    add([{ name: `${device}${earlier > 0 ? ` ${earlier + 1}` : ""}.txt`, text, device }]);
    setText("");
    setTypedName(null);
  };
  const empty = files.length === 0;
  return (
    <section aria-label="Files and text" className={empty ? "flex min-h-[55vh] flex-1 flex-col" : ""}>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: dropping is an alternative to the file inputs within. */}
      <div
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(event) => {
          event.preventDefault();
          setOver(false);
          void attempt(droppedFiles(event.dataTransfer.items, onArchive));
        }}
        className={`flex flex-col border-2 border-dashed ${empty ? "flex-1" : ""} ${over ? "border-ink bg-chosen-soft" : "border-iron"}`}
      >
        {empty && (
          <p className="px-3 pt-3 font-semibold text-[17px]">
            Drop files, a folder or a ZIP archive here, or paste device output
          </p>
        )}
        {empty && (
          <p className="px-3 pt-1 text-ink-2">
            Route tables, interface lists and configuration in any layout, cable lists, iproute2 and nftables
            output, IETF models as JSON or XML. Text is read in your browser.
          </p>
        )}
        <textarea
          aria-label="Device output"
          rows={empty ? 6 : 1}
          value={text}
          onChange={(event) => setText(event.target.value)}
          placeholder={empty ? EXAMPLE : "Paste more device output"}
          className={`m-3 mb-0 border border-rule bg-panel p-2 font-addr text-[13px] leading-[18px] ${empty ? "min-h-40 flex-1 resize-none" : ""}`}
          spellCheck={false}
        />
        <div className="flex flex-wrap items-center gap-3 p-3">
          <label className="flex items-center gap-2">
            <span className="text-ink-2">Device</span>
            <input
              value={name}
              onChange={(event) => setTypedName(event.target.value)}
              placeholder="name"
              className="field w-44"
            />
          </label>
          <Button look={empty ? "strong" : "plain"} onClick={readText}>
            Read text
          </Button>
          <span className="ml-auto flex flex-wrap gap-2">
            <FileButton multiple onChange={(event) => choose(event.target.files)}>
              Choose files
            </FileButton>
            <FileButton
              multiple
              ref={(input) => input?.setAttribute("webkitdirectory", "")}
              onChange={(event) => choose(event.target.files)}
            >
              Choose folder
            </FileButton>
          </span>
        </div>
      </div>
      {error !== "" && (
        <p role="alert" className="mt-1 text-stop">
          {error}
        </p>
      )}
      {files.length > 0 && <FileList files={files} onFiles={onFiles} />}
    </section>
  );
}

const EXAMPLE = `west-router# show routes
0.0.0.0/0        via 198.51.100.1   wan1
172.20.16.0/24   connected          lan
…`;

/** The files, each with the device that it belongs to, which can be corrected here. */
function FileList({ files, onFiles }: Pick<DropAreaProps, "files" | "onFiles">) {
  return (
    <ul aria-label="Files" className="mt-1 flex flex-wrap items-center gap-x-4 gap-y-1 text-[13px]">
      {files.slice(0, MAX_LISTED).map((file) => (
        <li key={file.name} className="flex items-center gap-1">
          <span className="max-w-56 truncate text-ink-2" title={file.name}>
            {file.name}
          </span>
          <input
            aria-label={`Device of ${file.name}`}
            defaultValue={file.device ?? deviceByName(file.name)}
            onBlur={(event) => {
              const device = event.target.value.trim();
              if (device === "" || device === (file.device ?? deviceByName(file.name))) return;
              onFiles(files.map((one) => (one === file ? { ...one, device } : one)));
            }}
            className="field h-[24px] w-32 text-[13px]"
          />
          <Button
            look="quiet"
            aria-label={`Remove ${file.name}`}
            onClick={() => onFiles(files.filter((one) => one !== file))}
          >
            ×
          </Button>
        </li>
      ))}
      {files.length > MAX_LISTED && <li className="text-ink-2">and {files.length - MAX_LISTED} more</li>}
      <li>
        <Button look="quiet" onClick={() => onFiles([])}>
          Remove all
        </Button>
      </li>
    </ul>
  );
}

type OnArchive = DropAreaProps["onArchive"];

/** Dropped files, including those in dropped folders, named with their paths. */
async function droppedFiles(items: DataTransferItemList, onArchive: OnArchive): Promise<SourceFile[][]> {
  const entries = [...items].flatMap((item) => item.webkitGetAsEntry() ?? []);
  return Promise.all(entries.map((entry) => filesIn(entry, onArchive)));
}

/** A file's text, or the files of an archive; none of an archive that exceeds the browser's limit. */
async function contentsOf(file: File, name: string, onArchive: OnArchive): Promise<SourceFile[]> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  if (!isArchive(bytes)) return [{ name, text: new TextDecoder().decode(bytes) }];
  onArchive(file);
  try {
    return unpack(name, bytes);
  } catch (failure) {
    if (failure instanceof TooLargeArchive) return [];
    throw failure;
  }
}

async function filesIn(entry: FileSystemEntry, onArchive: OnArchive): Promise<SourceFile[]> {
  if (entry.isFile) {
    const file = await new Promise<File>((resolve, reject) =>
      (entry as FileSystemFileEntry).file(resolve, reject),
    );
    return contentsOf(file, entry.fullPath.replace(/^\//, ""), onArchive);
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const found: SourceFile[] = [];
  // A folder is listed in parts; an empty part is the end.
  for (;;) {
    const part = await new Promise<FileSystemEntry[]>((resolve, reject) =>
      reader.readEntries(resolve, reject),
    );
    if (part.length === 0) return found;
    found.push(...(await Promise.all(part.map((inner) => filesIn(inner, onArchive)))).flat());
  }
}
