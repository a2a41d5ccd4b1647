import { formatPlanError } from "../../core/plan/index.ts";
import { UnreadableArchive, unpack } from "../../exchange/archive.ts";
import { type Fate, type LineFate, readingOf } from "../../exchange/facts/index.ts";
import { readFiles } from "../../exchange/readings.ts";
import { takeReadings } from "../../exchange/rebuild/import-edit.ts";
import { rebuildPlan } from "../../exchange/rebuild/plan.ts";
import type { EditablePlan } from "../../server/access/grants.ts";
import { documentOf, headOf, saveEdit } from "../../server/plans.ts";
import { keepReadings } from "../../server/readings.ts";
import type { Visitor } from "../../server/session.ts";
import { knownLayouts } from "./layouts.server.ts";
import { notFound } from "./page.server.ts";

/** What became of an archive that the server read. */
export interface ArchiveNotice {
  readonly error: string;
  readonly revision: number | null;
  readonly devices: number;
  readonly links: number;
  readonly changes: number;
  readonly fates: Readonly<Record<Fate, number>>;
  /** The first lines that were doubtful or not understood. */
  readonly open: readonly LineFate[];
}

const MAX_OPEN = 200;

const nothing = (error: string): ArchiveNotice => ({
  error,
  revision: null,
  devices: 0,
  links: 0,
  changes: 0,
  fates: { taken: 0, doubtful: 0, known: 0, "not-understood": 0 },
  open: [],
});

/** Reads an archive of what many devices said, keeps it, and takes it into the plan as one edit. */
export async function takeArchive(
  planId: EditablePlan,
  file: File,
  visitor: Visitor,
): Promise<ArchiveNotice> {
  const head = await headOf(planId);
  const plan = head && (await documentOf(planId, head.revision));
  if (!head || !plan) notFound("There is no such plan; it may have been deleted.");
  let files: ReturnType<typeof unpack>;
  try {
    files = unpack(file.name.slice(0, 200), new Uint8Array(await file.arrayBuffer()));
  } catch (error) {
    if (error instanceof UnreadableArchive) return nothing(error.message);
    throw error;
  }
  const layouts = (await knownLayouts(planId)).map(({ layout }) => layout);
  const readings = readFiles(files, { layouts });
  const fates = { taken: 0, doubtful: 0, known: 0, "not-understood": 0 };
  for (const { fate } of readings.lines) fates[fate]++;
  const open = readings.lines
    .filter(({ fate }) => fate === "doubtful" || fate === "not-understood")
    .slice(0, MAX_OPEN);
  const read = { ...nothing(""), fates, open };
  const outcome = rebuildPlan(readings, plan.name);
  if (!outcome.ok) return { ...read, error: outcome.errors.map(formatPlanError).join("; ") };
  const taking = takeReadings(plan, readings, outcome.rebuilt);
  if (!taking.ok) return { ...read, error: taking.errors.slice(0, 5).map(formatPlanError).join("; ") };
  const { edit } = taking;
  const counts = {
    devices: readings.devices.length,
    links: outcome.rebuilt.links.length,
    changes: edit?.changes.length ?? 0,
  };
  await keepReadings(
    planId,
    visitor.name,
    readings.devices.map(({ named }) => readingOf(named)),
  );
  if (!edit) return { ...read, ...counts };
  const saved = await saveEdit(planId, head.revision, edit, visitor);
  return saved.ok
    ? { ...read, ...counts, revision: saved.revision }
    : { ...read, ...counts, error: saved.errors.slice(0, 5).map(formatPlanError).join("; ") };
}
