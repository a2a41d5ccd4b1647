import { signedInAs } from "../../server/access/actor.ts";
import { type AuditFilter, recordBefore } from "../../server/access/audit-log.ts";
import { actionsOf, eventNames, eventOf, eventText } from "../../server/access/events.ts";
import { permitAdministration } from "../../server/access/permit.ts";
import { listPlans } from "../../server/plans.ts";
import { AuditLogView } from "../features/access/audit-log-view.tsx";
import type { Route } from "./+types/audit-log";

const SHOWN = 200;

/** The audit log, newest first, filtered by user, plan, event and time. */
export async function loader({ request }: Route.LoaderArgs) {
  const { searchParams } = new URL(request.url);
  const before = Number(searchParams.get("before") ?? Number.NaN);
  const from = Number.isSafeInteger(before) && before > 0 ? before : Number.MAX_SAFE_INTEGER;
  const filter = filterOf(searchParams);
  const rows = await recordBefore(permitAdministration(request), from, SHOWN, filter);
  const plans = (await listPlans(() => true)).map(({ id, name }) => ({ id, name }));
  const nameOf = new Map<string, string>(plans.map(({ id, name }) => [id, name]));
  return {
    who: signedInAs(request)?.name ?? null,
    filter: {
      who: filter.who ?? "",
      plan: filter.plan ?? "",
      event: searchParams.get("event") ?? "",
      from: searchParams.get("from") ?? "",
      to: searchParams.get("to") ?? "",
    },
    events: eventNames,
    plans,
    rows: rows.map(({ number, at, who, address, action, subject, status, detail }) => {
      const plan = /^(?:\/api\/v1)?\/plans\/(\d+)(?:\/|$)/.exec(subject)?.[1] ?? null;
      return {
        number,
        at,
        who,
        address,
        event: eventOf(action).name,
        text: eventText(action, detail),
        plan: plan === null ? null : { id: plan, name: nameOf.get(plan) ?? `plan ${plan}` },
        request: `${action.replace(/^POST /, "")} ${subject}`,
        status,
      };
    }),
    earlier: rows.length === SHOWN ? (rows.at(-1)?.number ?? null) : null,
  };
}

function filterOf(params: URLSearchParams): AuditFilter {
  const text = (key: string) => params.get(key)?.trim().slice(0, 100) || null;
  const time = (key: string, addDay = false) => {
    const at = Date.parse(`${text(key) ?? ""}T00:00:00Z`);
    return Number.isNaN(at) ? null : new Date(at + (addDay ? 86_400_000 : 0));
  };
  const plan = text("plan");
  const event = text("event");
  return {
    who: text("who"),
    plan: plan !== null && /^[1-9]\d{0,17}$/.test(plan) ? plan : null,
    actions: event === null ? null : actionsOf(event),
    from: time("from"),
    to: time("to", true),
  };
}

export function meta() {
  return [{ title: "Audit log · Iron Fork" }];
}

export default function Page({ loaderData }: Route.ComponentProps) {
  return <AuditLogView {...loaderData} />;
}
