import { data } from "react-router";
import { z } from "zod";
import { StepTemplate, TEMPLATE_LIMITS } from "../../exchange/texts/index.ts";
import { auditDetail } from "../../server/access/audit.ts";
import { permit } from "../../server/access/permit.ts";
import { keepTemplate, templatesOf } from "../../server/changes/templates.ts";
import { visitorOf } from "../../server/session.ts";
import { formOf, textField } from "../engine/bodies.server.ts";
import { needPlan } from "../engine/page.server.ts";
import { sampleSteps } from "../engine/sample-steps.server.ts";
import { WordsView } from "../features/changes/words-view.tsx";
import { titleOf } from "../plan/title.ts";
import type { Route } from "./+types/templates";

export const handle = { stage: "changes" };

/** The plan's device templates, and steps to try them on. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const plan = permit(request, params.plan, "reads");
  const [templates, samples] = await Promise.all([templatesOf(plan), sampleSteps(plan)]);
  return { templates, samples };
}

/** Keeps a template; an empty one is taken away. */
export async function action({ request, params }: Route.ActionArgs) {
  const plan = permit(request, params.plan, "edits");
  await needPlan(plan);
  const visitor = await visitorOf(request);
  const headers = visitor.setCookie ? { "Set-Cookie": visitor.setCookie } : undefined;
  const form = await formOf(request, z.object({ profile: textField, source: textField }));
  const [profile, source] = [form.profile.trim(), form.source.replaceAll("\r\n", "\n")];
  const refuse = (error: string) => data({ error, kept: false }, { status: 400, headers });
  if (!/^[a-z0-9][a-z0-9-]{0,62}$/.test(profile)) return refuse("choose a profile");
  if (source.length > TEMPLATE_LIMITS.text)
    return refuse(`a template has at most ${TEMPLATE_LIMITS.text} characters`);
  const read = StepTemplate.read(source);
  if (!read.ok) return refuse(`${read.line ? `line ${read.line}: ` : ""}${read.error}`);
  auditDetail({ profile });
  await keepTemplate(plan, profile, source, visitor.name);
  return data({ error: "", kept: true }, { headers });
}

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Device templates", matches);
}

export default function Page({ loaderData, actionData }: Route.ComponentProps) {
  return <WordsView {...loaderData} told={actionData ?? null} />;
}

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
