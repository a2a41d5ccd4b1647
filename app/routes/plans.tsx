import { data, redirect } from "react-router";
import { formatPlanError, type Plan, type PlanError } from "../../core/plan/index.ts";
import { readPlanText } from "../../exchange/plan-text.ts";
import { createPlan, deletePlan, listPlans } from "../../server/plans.ts";
import { visitorOf } from "../../server/session.ts";
import { sheetOf } from "../answers/sheet.ts";
import { layoutOf } from "../drawing/layout.server.ts";
import { PlansView } from "../views/plans/plans-view.tsx";
import type { Route } from "./+types/plans";

export async function loader() {
  const plans = await listPlans();
  const sheets = await Promise.all(
    plans.map(async (plan) => ({
      id: plan.id,
      revision: plan.revision,
      changedAt: plan.changedAt,
      author: plan.author,
      sheet: sheetOf(plan.document, `${plan.id} ${plan.revision}`),
      drawing: await layoutOf(plan.document),
    })),
  );
  return { sheets };
}

/** The largest document that the interface takes. */
const MAX_UPLOAD = 8 * 1024 * 1024;

function refuse(errors: PlanError[]) {
  return data({ errors: errors.map(formatPlanError) }, { status: 400 });
}

export async function action({ request }: Route.ActionArgs) {
  const visitor = await visitorOf(request);
  const headers = visitor.setCookie ? { "Set-Cookie": visitor.setCookie } : undefined;
  const size = Number(request.headers.get("Content-Length") ?? 0);
  if (size > MAX_UPLOAD) {
    const message = `the document is too large: ${Math.ceil(size / 1024 / 1024)} MB, and ${MAX_UPLOAD / 1024 / 1024} MB are taken at most`;
    return refuse([{ path: "", message }]);
  }
  const form = await request.formData();
  const doing = form.get("do");
  if (doing === "delete") {
    await deletePlan(String(form.get("plan")));
    return redirect("/plans", { headers });
  }
  if (doing === "new") {
    const name = String(form.get("name") ?? "").trim();
    const reading = readPlanText(JSON.stringify({ ironFork: 1, name }));
    if (!reading.ok) return refuse(reading.errors);
    return redirect(`/plans/${await createPlan(reading.plan, visitor, "started empty")}/map`, { headers });
  }
  const file = form.get("file");
  const pasted = String(form.get("text") ?? "");
  const uploaded = file instanceof File && file.size > 0;
  const text = uploaded ? await file.text() : pasted;
  const reading = readPlanText(text);
  if (!reading.ok) return refuse(reading.errors);
  const plan: Plan = reading.plan;
  const id = await createPlan(plan, visitor, uploaded ? `read from ${file.name}` : "read from pasted text");
  return redirect(`/plans/${id}/map`, { headers });
}

export function meta() {
  return [{ title: "Plans · Iron Fork" }];
}

export default function PlansPage({ loaderData, actionData }: Route.ComponentProps) {
  return <PlansView sheets={loaderData.sheets} errors={actionData?.errors ?? []} />;
}
