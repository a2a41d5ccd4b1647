import { useEffect, useId, useMemo, useRef, useState } from "react";
import {
  formatRouteLine,
  lineOfFields,
  readRouteLine,
  routeOfFields,
} from "../../../core/authoring/index.ts";
import { describeRoute, type Edit, type StaticRoute } from "../../../core/plan/index.ts";
import { askPlan } from "../../engine/ask.client.ts";
import { useAsking } from "../../engine/asking.ts";
import { Button } from "../../ui/button.tsx";
import { downOf } from "../down.ts";
import type { useEditing } from "../editing.ts";
import { ImpactView } from "../impact/impact-view.tsx";
import { usePlan } from "../open-plan.tsx";
import { LineInput } from "./line-input.tsx";
import { additionEdit, changeEdit } from "./route-edits.ts";
import { RouteFields } from "./route-fields.tsx";

export interface DeskDevice {
  id: string;
  label: string;
  staticDistance: number | null;
}

interface RouteEditorProps {
  /** The device whose page this is; null where the line names the devices. */
  device: DeskDevice | null;
  /** The route that is being changed; null while a new one is written. */
  old: StaticRoute | null;
  editing: ReturnType<typeof useEditing>;
  onTaken: (routes: { device: string; route: StaticRoute }[]) => void;
  onLeave: () => void;
}

/**
 * Writes a route, as one line or in fields, and shows what it does before it is saved. Wrong input is told
 * beside its field and keeps what was typed.
 */
export function RouteEditor(props: RouteEditorProps) {
  const { device, old, editing, onTaken, onLeave } = props;
  const { page, frame } = usePlan();
  const first = old ? formatRouteLine(old) : "";
  const [text, setText] = useState(first);
  const [fields, setFields] = useState<Readonly<Record<string, string>>>(() => readRouteLine(first).fields);
  const [tried, setTried] = useState(false);
  /** Whether the fields are open; unless that was chosen, as soon as something is written. */
  const [opened, setOpened] = useState<boolean | null>(null);
  const fieldsOpen = opened ?? text.trim() !== "";
  const form = useRef<HTMLFormElement>(null);
  const sent = useRef<{ device: string; route: StaticRoute }[] | null>(null);
  const statusId = useId();

  const reading = useMemo(() => readRouteLine(text), [text]);
  const named = useMemo(() => reading.devices.map((token) => token.text), [reading]);
  const targets = useMemo(() => (named.length ? named : device ? [device.id] : []), [named, device]);
  const unknown = targets.find((id) => !frame.devices.some((entry) => entry.id === id));
  const outcome = useMemo(() => routeOfFields(fields), [fields]);
  const lineErrors = reading.errors.filter((error) => error.ofLine);
  const edit = useMemo<Edit | null>(() => {
    if (!outcome.ok || unknown || targets.length === 0 || lineErrors.length > 0) return null;
    if (old && device) return changeEdit(device, old, outcome.route);
    const label = (id: string) => frame.devices.find((entry) => entry.id === id)?.label ?? id;
    const parts = targets.map((id) => additionEdit({ id, label: label(id) }, outcome.route));
    if (parts.length === 1) return parts[0];
    return {
      label: `Add ${describeRoute(outcome.route)} on ${targets.map(label).join(", ")}`.slice(0, 300),
      changes: parts.flatMap((part) => part.changes),
    };
  }, [outcome, unknown, targets, lineErrors.length, old, device, frame.devices]);

  const unchanged = old !== null && text.trim() === first;
  const wanted = unchanged ? null : edit;
  const down = downOf(frame);
  const preview = useAsking(page, "effect", wanted && { down, edit: wanted }, { kind: "desk preview" });
  const findings = useAsking(
    page,
    "findingsAfter",
    wanted && preview.answer?.ok && !preview.pending ? { down, edit: wanted } : null,
    { kind: "desk findings", afterMs: 600 },
  );

  // The first preview should not be the slowest.
  const at = device?.id ?? null;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new plan or device is warmed up once.
  useEffect(() => {
    askPlan(page, "warm", { down: [], device: at }).catch(() => {});
  }, [page.planId, at]);

  const { busy, saved, errors: refusals } = editing;
  useEffect(() => {
    if (!sent.current || busy) return;
    const taken = sent.current;
    sent.current = null;
    if (saved === null) return;
    setText("");
    setFields({});
    setTried(false);
    onTaken(taken);
  }, [busy, saved, onTaken]);

  const onLine = (line: string) => {
    setText(line);
    setFields(readRouteLine(line).fields);
  };
  const onField = (name: string, value: string) => {
    const next = { ...fields, [name]: value };
    setFields(next);
    setText(lineOfFields(next, named));
  };

  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    setTried(true);
    if (!edit || !outcome.ok) {
      form.current?.querySelector<HTMLElement>("[aria-invalid]")?.focus();
      return;
    }
    sent.current = targets.map((id) => ({ device: id, route: outcome.route }));
    editing.save(edit);
  };

  const errors: Record<string, string> = {};
  if (tried && !outcome.ok) for (const error of outcome.errors) errors[error.field] ??= error.message;
  const general = [
    ...(tried || text.trim() !== "" ? lineErrors.map((error) => error.message) : []),
    ...(unknown && text.trim() !== "" ? [`there is no device ${unknown}`] : []),
    ...(tried && targets.length === 0
      ? ["on which device? Write its id and a colon before the route, or several with commas"]
      : []),
    ...(errors.line ? [errors.line] : []),
    ...refusals.map((error) => error.message),
    ...(preview.answer && !preview.answer.ok ? preview.answer.errors.map((error) => error.message) : []),
  ].filter((message, i, all) => all.indexOf(message) === i);

  return (
    <form
      ref={form}
      onSubmit={submit}
      aria-label={old ? "Change a route" : "Add a route"}
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
          onChange={onLine}
          invalid={general.length > 0}
          describedBy={statusId}
        />
        <button type="submit" className="button button-strong" disabled={busy}>
          {old ? "Save the change" : "Add the route"}
        </button>
        <Button aria-expanded={fieldsOpen} onClick={() => setOpened(!fieldsOpen)}>
          Fields
        </Button>
        {(old || text.trim() !== "") && (
          <button
            type="button"
            className="button"
            onClick={() => {
              setText("");
              setFields({});
              setTried(false);
              onLeave();
            }}
          >
            {old ? "Cancel" : "Clear"}
          </button>
        )}
      </div>
      <div className="mt-1.5" hidden={!fieldsOpen}>
        <RouteFields
          values={fields}
          errors={errors}
          staticDistance={device?.staticDistance ?? null}
          onChange={onField}
        />
      </div>
      <div id={statusId}>
        {general.length > 0 && (
          <p role="alert" className="mt-1 text-stop">
            {general.join("; ")}
          </p>
        )}
      </div>
      {wanted && preview.answer?.ok && (
        <div
          className="mt-2 max-h-[38vh] min-h-0 overflow-y-auto border-rule border-t pt-2"
          data-testid="preview"
          data-edit={preview.of}
          data-settled={preview.pending ? undefined : ""}
        >
          <ImpactView effect={preview.answer.effect} findings={findings.answer} looking={findings.pending} />
        </div>
      )}
    </form>
  );
}
