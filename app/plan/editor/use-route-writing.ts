import { useEffect, useMemo, useRef, useState } from "react";
import {
  formatRouteLine,
  lineOfFields,
  readRouteLine,
  routeOfFields,
} from "../../../core/authoring/index.ts";
import { describeRoute, type Edit, type StaticRoute } from "../../../core/plan/index.ts";
import { askPlan } from "../../engine/ask.client.ts";
import { useAsking } from "../../engine/asking.ts";
import { downOf } from "../down.ts";
import type { useEditing } from "../editing.ts";
import { usePlan } from "../open-plan.tsx";
import { additionEdit, changeEdit } from "./route-edits.ts";

export interface DeskDevice {
  id: string;
  label: string;
  staticDistance: number | null;
}

export interface SavedRoute {
  device: string;
  route: StaticRoute;
}

/** The edited route as a line and as fields, kept in step. With `draftKey` it is stored in this tab until it is saved,
 * even if the page is left. */
function useRouteInput(first: string, draftKey: string | null) {
  const [text, setText] = useState(first);
  const [fields, setFields] = useState<Readonly<Record<string, string>>>(() => readRouteLine(first).fields);
  const reading = useMemo(() => readRouteLine(text), [text]);
  const named = useMemo(() => reading.devices.map((token) => token.text), [reading]);
  const outcome = useMemo(() => routeOfFields(fields), [fields]);
  useEffect(() => {
    const draft = draftKey && sessionStorage.getItem(draftKey);
    if (!draft) return;
    setText(draft);
    setFields(readRouteLine(draft).fields);
  }, [draftKey]);
  const wasTyped = useRef(false);
  useEffect(() => {
    if (!draftKey) return;
    if (text !== "") sessionStorage.setItem(draftKey, text);
    else if (wasTyped.current) sessionStorage.removeItem(draftKey);
    wasTyped.current = text !== "";
  }, [draftKey, text]);
  return {
    text,
    fields,
    named,
    outcome,
    lineErrors: reading.errors.filter((error) => error.ofLine),
    onLine: (line: string) => {
      setText(line);
      setFields(readRouteLine(line).fields);
    },
    onField: (name: string, value: string) => {
      const next = { ...fields, [name]: value };
      setFields(next);
      setText(lineOfFields(next, named));
    },
    clear: () => {
      setText("");
      setFields({});
    },
  };
}

/** The edit's impact, and then its effect on findings, under the page's conditions. */
function usePreview(edit: Edit | null) {
  const { page, frame } = usePlan();
  const down = downOf(frame);
  const preview = useAsking(page, "effect", edit && { down, edit }, { kind: "desk preview" });
  const findings = useAsking(
    page,
    "findingsAfter",
    edit && preview.answer?.ok && !preview.pending ? { down, edit } : null,
    { kind: "desk findings", afterMs: 600 },
  );
  return { preview, findings };
}

/** The first error of each field, by its name. */
function errorsOfFields(outcome: ReturnType<typeof routeOfFields>): Record<string, string> {
  const errors: Record<string, string> = {};
  if (!outcome.ok) for (const error of outcome.errors) errors[error.field] ??= error.message;
  return errors;
}

/** One route added on several devices, as one edit. */
function additionsEdit(targets: readonly string[], label: (id: string) => string, route: StaticRoute): Edit {
  const parts = targets.map((id) => additionEdit({ id, label: label(id) }, route));
  if (parts.length === 1) return parts[0];
  return {
    label: `Add ${describeRoute(route)} on ${targets.map(label).join(", ")}`.slice(0, 300),
    changes: parts.flatMap((part) => part.changes),
  };
}

/** Warms up the plan and a device: the first preview should not be the slowest. */
function useWarm(device: string | null) {
  const { page } = usePlan();
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new plan or device is warmed up once.
  useEffect(() => {
    askPlan(page, "warm", { down: [], device }).catch(() => {});
  }, [page.planId, device]);
}

/** Saves an edit and reports it once it is saved; a refused edit is not reported. */
function useSending(editing: Writing["editing"], onTaken: Writing["onTaken"]) {
  const sent = useRef<SavedRoute[] | null>(null);
  const { busy, saved } = editing;
  // biome-ignore lint/correctness/useExhaustiveDependencies: only the end of a save that was sent from here matters.
  useEffect(() => {
    if (!sent.current || busy) return;
    const taken = sent.current;
    sent.current = null;
    if (saved !== null) onTaken(taken);
  }, [busy, saved]);
  return (edit: Edit, taken: SavedRoute[]) => {
    sent.current = taken;
    editing.save(edit);
  };
}

interface Writing {
  /** The device whose page this is; null where the line names the devices. */
  device: DeskDevice | null;
  /** The route that is being changed; null while a new one is written. */
  old: StaticRoute | null;
  editing: ReturnType<typeof useEditing>;
  onTaken: (routes: SavedRoute[]) => void;
}

/** A route being edited: its input, the resulting edit, its impact and its errors. */
export function useRouteWriting({ device, old, editing, onTaken }: Writing) {
  const { frame, planId } = usePlan();
  const first = old ? formatRouteLine(old) : "";
  const written = useRouteInput(first, old ? null : `route draft ${planId} ${device?.id ?? ""}`);
  const { text, named, outcome, lineErrors } = written;
  const [tried, setTried] = useState(false);
  const targets = useMemo(() => (named.length ? named : device ? [device.id] : []), [named, device]);
  const unknown = targets.find((id) => !frame.devices.some((entry) => entry.id === id));
  const refusedLine = lineErrors.length > 0;
  const edit = useMemo<Edit | null>(() => {
    if (!outcome.ok || unknown || targets.length === 0 || refusedLine) return null;
    if (old && device) return changeEdit(device, old, outcome.route);
    const labels = new Map(frame.devices.map(({ id, label }) => [id, label]));
    return additionsEdit(targets, (id) => labels.get(id) ?? id, outcome.route);
  }, [outcome, unknown, targets, refusedLine, old, device, frame.devices]);
  const wanted = old && text.trim() === first ? null : edit;
  const { preview, findings } = usePreview(wanted);

  useWarm(device?.id ?? null);
  const clear = () => {
    written.clear();
    setTried(false);
  };
  const send = useSending(editing, (taken) => {
    clear();
    onTaken(taken);
  });

  const errors = tried ? errorsOfFields(outcome) : {};
  const typed = text.trim() !== "";
  const general = [
    ...(tried || typed ? lineErrors.map((error) => error.message) : []),
    ...(unknown && typed ? [`there is no device ${unknown}`] : []),
    ...(tried && targets.length === 0
      ? ["device missing: enter its id and a colon before the route; separate several ids with commas"]
      : []),
    ...(errors.line ? [errors.line] : []),
    ...editing.errors.map((error) => error.message),
    ...(preview.answer && !preview.answer.ok ? preview.answer.errors.map((error) => error.message) : []),
  ].filter((message, i, all) => all.indexOf(message) === i);

  return {
    written,
    errors,
    general,
    preview: wanted ? preview : null,
    findings,
    clear,
    /** Saves the route; returns false if something is missing or invalid, and shows errors from then on. */
    submit: () => {
      setTried(true);
      if (!edit || !outcome.ok) return false;
      send(
        edit,
        targets.map((id) => ({ device: id, route: outcome.route })),
      );
      return true;
    },
  };
}
