import { z } from "zod";
import { editSchema, isWellFormed, malformedText } from "../../core/plan/index.ts";

/** A plan with its history as files: a folder with `plan.json` (its name and approved revision), `history.jsonl` (one
 * line per revision: author, time, reason and edit), and `revisions` (each document as YAML). */
export const PLAN_FILE = "plan.json";
export const HISTORY_FILE = "history.jsonl";
export const REVISIONS_FOLDER = "revisions";

/** The file of a revision's document, within the plan's folder. */
export function revisionFile(number: number): string {
  return `${REVISIONS_FOLDER}/${String(number).padStart(5, "0")}.yaml`;
}

/** The most revisions that a history may have. */
const MAX_REVISIONS = 1_000_000;

const number = z.int().min(1).max(MAX_REVISIONS);
const text = z.string().refine(isWellFormed, "holds a zero byte, or half of a character");
const moment = z.iso.datetime();

export const planFileSchema = z.strictObject({
  what: z.literal("iron-fork plan with history"),
  version: z.literal(1),
  name: text.min(1),
  /** How many revisions there are: the last is the plan as it stands. */
  revisions: number,
  /** The revision that counts as approved. */
  approved: number,
  /** Whether a change must be approved by a second person. */
  fourEyes: z.boolean(),
  madeAt: moment,
});
export type PlanFile = z.output<typeof planFileSchema>;

/** The origin of a revision: only a loaded document has no edit, and only an undo, redo or restore has a target. */
export const historyLineSchema = z
  .strictObject({
    number,
    kind: z.enum(["load", "edit", "undo", "redo"]),
    target: number.nullable(),
    author: text,
    why: text,
    madeAt: moment,
    edit: editSchema.nullable().refine((edit) => malformedText(edit) === null, "holds text that is none"),
  })
  .refine(({ kind, edit }) => (kind === "load") === (edit === null), {
    path: ["edit"],
    message: "is there for all revisions but a loaded one",
  })
  .refine(({ kind, target }) => (kind === "undo" || kind === "redo") === (target !== null), {
    path: ["target"],
    message: "is there for undo and redo alone",
  })
  .refine(({ number, target }) => target === null || target < number, {
    path: ["target"],
    message: "is an earlier revision",
  });
export type HistoryLine = z.output<typeof historyLineSchema>;
