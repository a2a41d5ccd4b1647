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

export interface Taken {
  device: string;
  route: StaticRoute;
}

/** What is being written, in its line and in its fields: either follows the other. */
function useWritten(first: string) {
  const [text, setText] = useState(first);
  const [fields, setFields] = useState<Readonly<Record<string, string>>>(() => readRouteLine(first).fields);
  const reading = useMemo(() => readRouteLine(text), [text]);
  const named = useMemo(() => reading.devices.map((token) => token.text), [reading]);
  const outcome = useMemo(() => routeOfFields(fields), [fields]);
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

/** What the edit does, and then what it does to the findings, under the page's conditions. */
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

interface Writing {
  /** The device whose page this is; null where the line names the devices. */
  device: DeskDevice | null;
  /** The route that is being changed; null while a new one is written. */
  old: StaticRoute | null;
  editing: ReturnType<typeof useEditing>;
  onTaken: (routes: Taken[]) => void;
}

/** A route that is being written: what stands there, the edit that it makes, what that does, and what is wrong with it. */
export function useRouteWriting({ device, old, editing, onTaken }: Writing) {
  const { page, frame } = usePlan();
  const first = old ? formatRouteLine(old) : "";
  const written = useWritten(first);
  const { text, named, outcome, lineErrors } = written;
  const [tried, setTried] = useState(false);
  const sent = useRef<Taken[] | null>(null);
  const targets = useMemo(() => (named.length ? named : device ? [device.id] : []), [named, device]);
  const unknown = targets.find((id) => !frame.devices.some((entry) => entry.id === id));
  const refusedLine = lineErrors.length > 0;
  const edit = useMemo<Edit | null>(() => {
    if (!outcome.ok || unknown || targets.length === 0 || refusedLine) return null;
    if (old && device) return changeEdit(device, old, outcome.route);
    const label = (id: string) => frame.devices.find((entry) => entry.id === id)?.label ?? id;
    const parts = targets.map((id) => additionEdit({ id, label: label(id) }, outcome.route));
    if (parts.length === 1) return parts[0];
    return {
      label: `Add ${describeRoute(outcome.route)} on ${targets.map(label).join(", ")}`.slice(0, 300),
      changes: parts.flatMap((part) => part.changes),
    };
  }, [outcome, unknown, targets, refusedLine, old, device, frame.devices]);
  const unchanged = old !== null && text.trim() === first;
  const wanted = unchanged ? null : edit;
  const { preview, findings } = usePreview(wanted);

  // The first preview should not be the slowest.
  const at = device?.id ?? null;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new plan or device is warmed up once.
  useEffect(() => {
    askPlan(page, "warm", { down: [], device: at }).catch(() => {});
  }, [page.planId, at]);

  const { busy, saved, errors: refusals } = editing;
  // biome-ignore lint/correctness/useExhaustiveDependencies: only the end of a save that was sent from here matters.
  useEffect(() => {
    if (!sent.current || busy) return;
    const taken = sent.current;
    sent.current = null;
    if (saved === null) return;
    clear();
    onTaken(taken);
  }, [busy, saved, onTaken]);

  function clear() {
    written.clear();
    setTried(false);
  }

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

  return {
    written,
    errors,
    general,
    preview: wanted ? preview : null,
    findings,
    clear,
    /** Saves what is written; false where something is missing or wrong, which is told from then on. */
    submit: () => {
      setTried(true);
      if (!edit || !outcome.ok) return false;
      sent.current = targets.map((id) => ({ device: id, route: outcome.route }));
      editing.save(edit);
      return true;
    },
  };
}
