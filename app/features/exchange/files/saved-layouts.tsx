import { useFetcher } from "react-router";
import type { Layout } from "../../../../exchange/layout.ts";
import { usePlan } from "../../../plan/open-plan.tsx";
import { useRights } from "../../../plan/rights.tsx";
import type { LayoutNotice } from "../../../routes/layouts.ts";
import { Button } from "../../../ui/button.tsx";
import { FileButton } from "../../../ui/file-button.tsx";

export interface LayoutView {
  id: string;
  name: string;
  author: string;
  layout: Layout;
}

/** Layouts that the plan keeps: each can be taken away as a document, and given again elsewhere. */
export function SavedLayouts({ layouts }: { layouts: readonly LayoutView[] }) {
  const { planId } = usePlan();
  const { edits } = useRights();
  const keeper = useFetcher<LayoutNotice>({ key: "layout-files" });
  return (
    <section aria-label="Layouts" className="mt-6 max-w-3xl">
      <h2 className="font-semibold font-sign text-[20px]">Table layouts</h2>
      <p className="text-ink-2">
        Tables with a saved layout are recognized automatically. The command line reads the same layout files.
      </p>
      <ul>
        {layouts.map(({ id, name, author, layout }) => (
          <li key={id} className="flex flex-wrap items-baseline gap-3 border-rule border-t py-1">
            <span className="font-medium">{name}</span>
            <span className="text-ink-2">
              {Object.keys(layout.shapes).length} shapes, {Object.keys(layout.words).length} words, saved by{" "}
              {author}
            </span>
            <a className="name-link ml-auto" href={`/plans/${planId}/layouts?id=${id}`} download>
              Export
            </a>
            {edits && (
              <keeper.Form method="post" action={`/plans/${planId}/layouts`}>
                <input type="hidden" name="id" value={id} />
                <Button
                  type="submit"
                  look="quiet"
                  name="do"
                  value="forget"
                  aria-label={`Remove the layout ${name}`}
                >
                  Remove
                </Button>
              </keeper.Form>
            )}
          </li>
        ))}
      </ul>
      {edits && (
        <keeper.Form
          method="post"
          action={`/plans/${planId}/layouts`}
          encType="multipart/form-data"
          className="mt-1 flex flex-wrap items-end gap-2"
        >
          <input type="hidden" name="do" value="import" />
          <FileButton
            name="file"
            accept=".json,application/json"
            onChange={(event) => event.target.form?.requestSubmit()}
          >
            Import layout file
          </FileButton>
          {keeper.data && (
            <span
              role={keeper.data.error ? "alert" : "status"}
              className={keeper.data.error ? "text-stop" : ""}
            >
              {keeper.data.error || keeper.data.said}
            </span>
          )}
        </keeper.Form>
      )}
    </section>
  );
}
