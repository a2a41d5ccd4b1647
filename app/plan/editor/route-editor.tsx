import { useId, useRef, useState } from "react";
import type { StaticRoute } from "../../../core/plan/index.ts";
import { Button } from "../../ui/button.tsx";
import { Coded } from "../../ui/coded.tsx";
import type { useEditing } from "../editing.ts";
import { ImpactView } from "../impact/impact-view.tsx";
import { usePlan } from "../open-plan.tsx";
import { LineInput } from "./line-input.tsx";
import { RouteFields } from "./route-fields.tsx";
import { type DeskDevice, type SavedRoute, useRouteWriting } from "./use-route-writing.ts";

interface RouteEditorProps {
  /** The device whose page this is; null where the line names the devices. */
  device: DeskDevice | null;
  /** The route that is being changed; null while a new one is written. */
  old: StaticRoute | null;
  editing: ReturnType<typeof useEditing>;
  onTaken: (routes: SavedRoute[]) => void;
  onLeave: () => void;
}

/** Edits a route as one line or in fields, and shows its impact before it is saved. Errors appear beside their field
 * and keep the input. */
export function RouteEditor(props: RouteEditorProps) {
  const { device, old, editing, onLeave } = props;
  const { page } = usePlan();
  const { written, errors, general, preview, findings, clear, submit } = useRouteWriting(props);
  const { text } = written;
  /** Whether the fields are open; unless that was chosen, as soon as something is written. */
  const [opened, setOpened] = useState<boolean | null>(null);
  const fieldsOpen = opened ?? text.trim() !== "";
  const form = useRef<HTMLFormElement>(null);
  const statusId = useId();
  const onSubmit = (event: React.FormEvent) => {
    event.preventDefault();
    if (!submit()) form.current?.querySelector<HTMLElement>("[aria-invalid]")?.focus();
  };
  const leave = () => {
    clear();
    onLeave();
  };
  return (
    <form
      ref={form}
      onSubmit={onSubmit}
      aria-label={old ? "Change route" : "Add route"}
      className={`flex min-h-0 flex-col border-ink border-t-2 bg-panel px-4 py-2 ${old ? "bg-chosen-soft" : ""}`}
    >
      <div className="flex items-center gap-2">
        <span aria-hidden="true" className="font-addr text-[17px]">
          {old ? "~" : "+"}
        </span>
        <LineInput
          page={page}
          device={device?.id ?? null}
          value={text}
          onChange={written.onLine}
          invalid={general.length > 0}
          describedBy={statusId}
        />
        <button type="submit" className="button button-strong" disabled={editing.busy}>
          {old ? "Save route" : "Add route"}
        </button>
        <Button aria-expanded={fieldsOpen} onClick={() => setOpened(!fieldsOpen)}>
          Fields
        </Button>
        {(old || text.trim() !== "") && (
          <button type="button" className="button" onClick={leave}>
            {old ? "Cancel" : "Clear"}
          </button>
        )}
      </div>
      <div className="mt-1.5" hidden={!fieldsOpen}>
        <RouteFields
          values={written.fields}
          errors={errors}
          staticDistance={device?.staticDistance ?? null}
          onChange={written.onField}
        />
      </div>
      <div id={statusId}>
        {general.length > 0 && (
          <p role="alert" className="mt-1 text-stop">
            <Coded text={general.join("; ")} />
          </p>
        )}
      </div>
      {preview?.answer?.ok && (
        <div
          className="isolate mt-2 max-h-[38vh] min-h-0 overflow-y-auto border-rule border-t pt-2"
          data-testid="preview"
          data-edit={preview.of}
          data-settled={preview.pending ? undefined : ""}
        >
          <ImpactView
            effect={preview.answer.effect}
            findings={findings.answer}
            looking={findings.answer === null && findings.error === ""}
          />
        </div>
      )}
    </form>
  );
}
