import { stepItem } from "../../core/plan/index.ts";
import { type Rendered, StepTemplate, type TemplateData, templateSteps } from "../../exchange/texts/index.ts";
import type { TemplateRow } from "../../server/changes/templates.ts";
import type { LoadedChange } from "./changes.server.ts";

/** How long all templates of a change may take together, in milliseconds. */
const ALL_MS = 2000;

/** The users' own words for the steps of a change: by "v1.s2", doing it and taking it back; where the profile has a template. */
export type OwnWords = Readonly<Record<string, { readonly do: Rendered; readonly undo: Rendered }>>;

/** The users' own words for each step whose device has a template. */
export function ownWords(
  { before, after, runbook }: Pick<LoadedChange, "before" | "after" | "runbook">,
  templates: readonly TemplateRow[],
): OwnWords {
  if (templates.length === 0) return {};
  const read = new Map(templates.map(({ profile, source }) => [profile, StepTemplate.read(source)]));
  const end = performance.now() + ALL_MS;
  const render = (data: TemplateData): Rendered | null => {
    const template = read.get(data.device.profile);
    if (!template) return null;
    if (!template.ok) return template;
    if (performance.now() > end)
      return { ok: false, error: "rendering all templates takes too long", line: null };
    return template.template.render(data);
  };
  const undone = new Map(templateSteps(before, after, runbook, true).map((data) => [itemOf(data), data]));
  return Object.fromEntries(
    templateSteps(before, after, runbook).flatMap((data) => {
      const back = undone.get(itemOf(data));
      const [text, undo] = [render(data), back ? render(back) : null];
      return text && undo ? [[itemOf(data), { do: text, undo }]] : [];
    }),
  );
}

const itemOf = ({ visit, step }: TemplateData) => stepItem(visit - 1, step - 1);
