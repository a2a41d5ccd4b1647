import { useFetcher } from "react-router";
import { usePlan } from "../../../plan/open-plan.tsx";
import type { ArchiveTold } from "../../../routes/archive.ts";
import { Button } from "../../../ui/button.tsx";

/** A large archive goes to the server, which reads it beside all else and takes it into the plan as one edit. */
export function ArchiveForm() {
  const { planId } = usePlan();
  const sender = useFetcher<ArchiveTold | null>({ key: "archive" });
  const busy = sender.state !== "idle";
  const told = sender.data;
  return (
    <section aria-label="A large archive" className="mt-3">
      <sender.Form
        method="post"
        action={`/plans/${planId}/archive`}
        encType="multipart/form-data"
        className="flex flex-wrap items-end gap-3"
      >
        <label className="flex flex-col text-[13px] text-ink-2">
          Or a ZIP archive of hundreds of devices, read by the server and taken at once
          <input type="file" name="file" accept=".zip,application/zip" required />
        </label>
        <Button type="submit" disabled={busy}>
          Read and take it
        </Button>
        {busy && <span role="status">The server reads it …</span>}
      </sender.Form>
      {told && !busy && (
        <div role={told.error ? "alert" : "status"} className="mt-1">
          <p className={told.error ? "text-stop" : "font-medium"}>
            {told.error ||
              (told.revision === null
                ? `The plan has all of it already: ${told.devices} devices.`
                : `Taken as revision ${told.revision}: ${told.devices} devices, ${told.links} links, ${told.changes} changes. Undo takes all of it back.`)}
          </p>
          <p className="text-ink-2">
            Of its lines {told.fates.taken} were taken, {told.fates.doubtful} are doubtful, {told.fates.known}{" "}
            were known, {told.fates["not-understood"]} were not understood.
          </p>
          <ul className="max-h-40 overflow-auto text-[13px]">
            {told.open.map(({ file, line, detail }) => (
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
