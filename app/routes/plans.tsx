import { data, isRouteErrorResponse, redirect } from "react-router";
import { z } from "zod";
import { formatPlanError, LIMITS, type PlanError } from "../../core/plan/index.ts";
import { readPlanText } from "../../exchange/plan-text.ts";
import { may, signedInAs } from "../../server/access/actor.ts";
import { auditDetail } from "../../server/access/audit.ts";
import { permit } from "../../server/access/permit.ts";
import { createPlan, deletePlan, listPlans } from "../../server/plans.ts";
import { visitorOf } from "../../server/session.ts";
import { formOf, rowField, textField } from "../engine/bodies.server.ts";
import { allLessons, lessonText } from "../engine/lessons.server.ts";
import type { SheetView } from "../engine/page.server.ts";
import { PlansView } from "../features/plans/plans-view.tsx";
import type { Route } from "./+types/plans";

/** The list opens regardless of its plans: each card requests missing data. */
export async function loader({ request }: Route.LoaderArgs) {
  const plans = await listPlans((id) => may(request, "reads", id));
  return {
    who: signedInAs(request)?.name ?? null,
    administers: may(request, "administers"),
    adds: may(request, "edits"),
    plans: plans.map((plan) => ({
      ...plan,
      sheet: plan.sheet as SheetView | null,
      edits: may(request, "edits", plan.id),
    })),
    lessons: allLessons(),
  };
}

function refuse(errors: PlanError[]) {
  return data({ errors: errors.map(formatPlanError) }, { status: 400 });
}

const formSchema = z.discriminatedUnion("do", [
  z.object({ do: z.literal("delete"), plan: rowField }),
  z.object({ do: z.literal("new"), name: textField }),
  z.object({ do: z.literal("lesson"), lesson: textField }),
  z.object({ do: z.literal("read"), file: z.instanceof(File).optional(), text: textField }),
]);

export async function action({ request }: Route.ActionArgs) {
  const visitor = await visitorOf(request);
  const headers = visitor.setCookie ? { "Set-Cookie": visitor.setCookie } : undefined;
  const form = await formOf(request, formSchema);
  if (form.do === "delete") {
    await deletePlan(permit(request, form.plan, "edits"), visitor.name);
    return redirect("/plans", { headers });
  }
  if (!may(request, "edits"))
    return data({ errors: ["you do not have permission to add plans"] }, { status: 403 });
  if (form.do === "new") {
    const reading = readPlanText(
      JSON.stringify({
        ironFork: 1,
        name: form.name.trim(),
        assume: { unlinked: "up", hosts: "answer" },
      }),
    );
    if (!reading.ok) return refuse(reading.errors);
    auditDetail({ name: reading.plan.name });
    return redirect(`/plans/${await createPlan(reading.plan, visitor, "created empty")}/map`, { headers });
  }
  if (form.do === "lesson") {
    const reading = readPlanText(lessonText(form.lesson) ?? "");
    if (!reading.ok)
      return refuse([{ path: "", message: "there is no such example; choose one from the list" }]);
    return redirect(`/plans/${await createPlan(reading.plan, visitor, "opened from an example")}/map`, {
      headers,
    });
  }
  const file = form.file && form.file.size > 0 ? form.file : null;
  const reading = readPlanText(file ? await file.text() : form.text);
  if (!reading.ok) return refuse(reading.errors);
  const why = file ? `imported from ${file.name.slice(0, 200)}` : "imported from pasted text";
  return redirect(`/plans/${await createPlan(reading.plan, visitor, why)}/map`, { headers });
}

/** Input that is too large is refused before it is sent; without an answer, the input remains. */
export async function clientAction({ request, serverAction }: Route.ClientActionArgs) {
  const form = await request.clone().formData();
  const sizes = [...form.values()].map((value) => (typeof value === "string" ? value.length : value.size));
  const size = sizes.reduce((sum, one) => sum + one, 0);
  const most = LIMITS.upload;
  if (size > most) {
    const megabytes = (bytes: number) => Math.ceil(bytes / 1024 / 1024);
    return {
      errors: [
        `the document is too large: ${megabytes(size)} MB; at most ${megabytes(most)} MB can be imported`,
      ],
    };
  }
  try {
    return await serverAction();
  } catch (error) {
    if (error instanceof Response) throw error;
    const said =
      isRouteErrorResponse(error) && typeof error.data === "string"
        ? error.data
        : "The server is not responding.";
    return { errors: [`${said} Your input is still here. Try again.`] };
  }
}

export function meta() {
  return [{ title: "Plans · Iron Fork" }];
}

export default function PlansPage({ loaderData, actionData }: Route.ComponentProps) {
  return <PlansView {...loaderData} errors={actionData?.errors ?? []} />;
}
