import { data } from "react-router";
import { z } from "zod";
import { editOfDrift, isTakeable } from "../../../exchange/drift-edit.ts";
import { keyOf } from "../../../exchange/drift-entry.ts";
import { ignoring, unignore } from "../../../exchange/drift-ignored.ts";
import { permit } from "../../../server/access/permit.ts";
import { deviceWork, dropWork, noteWork } from "../../../server/live/work.ts";
import { documentOf, headOf, saveEdit } from "../../../server/plans.ts";
import { visitorOf } from "../../../server/session.ts";
import { formOf, rowField, textField } from "../../engine/bodies.server.ts";
import { driftAt } from "../../engine/drift.server.ts";
import { notFound } from "../../engine/page.server.ts";
import { DriftView } from "../../features/exchange/drift/drift-view.tsx";
import { titleOf } from "../../plan/title.ts";
import type { Route } from "./+types/drift";

/** Differences between the latest readings and the plan, under the address's conditions. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const plan = permit(request, params.plan, "reads");
  const head = await headOf(plan);
  if (!head) notFound("There is no such plan; it may have been deleted.");
  const [drift, work] = await Promise.all([
    driftAt(plan, head.revision, new URL(request.url).searchParams.getAll("down")),
    deviceWork(plan),
  ]);
  const { compared, readAt, ignored } = drift;
  return {
    compared,
    readAt,
    ignored: ignored.map((entry) => ({
      key: keyOf(entry),
      device: entry.device,
      text: entry.text,
      reason: entry.reason,
    })),
    differences: drift.differences.map((entry) => ({
      key: keyOf(entry),
      device: entry.device,
      kind: entry.kind,
      subject: entry.subject,
      text: entry.text,
      takeable: isTakeable(entry),
    })),
    work: work.map((entry) => ({ ...entry, key: keyOf(entry) })),
  };
}

const entry = z.array(z.string()).default([]);
const formSchema = z.discriminatedUnion("do", [
  z.object({ do: z.literal("done"), work: rowField }),
  z.object({ do: z.literal("work"), entry }),
  z.object({ do: z.literal("take"), entry }),
  z.object({ do: z.literal("ignore"), entry, reason: textField }),
  z.object({ do: z.literal("heed"), entry }),
]);

/** Takes differences into the plan as one edit, or keeps them as work for the devices. */
export async function action({ request, params }: Route.ActionArgs) {
  const plan = permit(request, params.plan, "edits");
  const visitor = await visitorOf(request);
  const headers = visitor.setCookie ? { "Set-Cookie": visitor.setCookie } : undefined;
  const form = await formOf(request, formSchema, ["entry"]);
  const say = (said: string, error = "") => data({ said, error }, { status: error ? 400 : 200, headers });
  const head = await headOf(plan);
  if (!head) notFound("There is no such plan; it may have been deleted.");
  if (form.do === "done") {
    await dropWork(plan, form.work);
    return say("Removed from the list.");
  }
  const { differences, ignored, said } = await driftAt(
    plan,
    head.revision,
    new URL(request.url).searchParams.getAll("down"),
  );
  const keys = new Set(form.entry);
  const chosen = (form.do === "heed" ? ignored : differences).filter((entry) => keys.has(keyOf(entry)));
  if (chosen.length === 0)
    return say("", "Select at least one difference. The ones you selected may be gone.");
  if (form.do === "work") {
    for (const entry of chosen) await noteWork(plan, entry, visitor.name);
    return say(
      `${chosen.length === 1 ? "1 difference" : `${chosen.length} differences`} added to the work list.`,
    );
  }
  const document = await documentOf(plan, head.revision);
  if (!document) notFound("There is no such plan; it may have been deleted.");
  if (form.do === "ignore" && form.reason.trim() === "")
    return say("", "Enter a reason for ignoring these differences.");
  const made =
    form.do === "take"
      ? editOfDrift(document, said, chosen)
      : {
          ok: true as const,
          edit: form.do === "ignore" ? ignoring(chosen, form.reason) : unignore(document, chosen),
        };
  if (!made.ok) return say("", `Not saved: ${made.why}.`);
  const saved = await saveEdit(plan, head.revision, made.edit, visitor);
  return saved.ok
    ? say(`Saved as revision ${saved.revision}.`)
    : say("", saved.errors.map(({ message }) => message).join("; "));
}

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Drift", matches);
}

export default function Page({ loaderData, actionData }: Route.ComponentProps) {
  return <DriftView {...loaderData} told={actionData ?? null} />;
}
