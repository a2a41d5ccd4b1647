import { useFetcher } from "react-router";
import { usePlan } from "../../../plan/open-plan.tsx";
import type { ArchiveNotice } from "../../../routes/archive.ts";
import { Button } from "../../../ui/button.tsx";

/** Imports a ZIP archive on the server without a preview: for archives that are too large for the browser. */
export function ArchiveImport({ archive, previewed }: { archive: File; previewed: boolean }) {
  const { planId } = usePlan();
  const sender = useFetcher<ArchiveNotice | null>({ key: "archive" });
  const busy = sender.state !== "idle";
  const result = sender.data;
  const send = () => {
    const form = new FormData();
    form.set("file", archive);
    void sender.submit(form, {
      method: "post",
      action: `/plans/${planId}/archive`,
      encType: "multipart/form-data",
    });
  };
  return (
    <section aria-label="Import on the server" className="mt-2">
      <p className="flex flex-wrap items-center gap-3">
        <span>
          {previewed
            ? `${archive.name} can also be imported on the server, without a preview.`
            : `${archive.name} is too large for a preview in the browser. The server can import it.`}
        </span>
        <Button look={previewed ? "plain" : "strong"} disabled={busy} onClick={send}>
          Import on server
        </Button>
        {busy && <span role="status">Importing …</span>}
      </p>
      {result && !busy && (
        <div role={result.error ? "alert" : "status"} className="mt-1">
          <p className={result.error ? "text-stop" : "font-medium"}>
            {result.error ||
              (result.revision === null
                ? `Nothing to import: the plan already contains all ${result.devices} devices.`
                : `Imported as revision ${result.revision}: ${result.devices} devices, ${result.links} links, ${result.changes} changes. Undo reverts the import.`)}
          </p>
          <p className="text-ink-2">
            Lines: {result.fates.taken} read, {result.fates.doubtful} assumed, {result.fates.known} ignored,{" "}
            {result.fates["not-understood"]} not understood.
          </p>
          <ul className="max-h-40 overflow-auto text-[13px]">
            {result.open.map(({ file, line, detail }) => (
              <li key={`${file} ${line} ${detail}`}>
                {file}, line {line}: {detail}
              </li>
            ))}
          </ul>
        </div>
      )}
    </section>
  );
}
