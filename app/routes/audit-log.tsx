import { signedInAs } from "../../server/access/actor.ts";
import { permitAdministration } from "../../server/access/permit.ts";
import { recordBefore } from "../../server/access/record.ts";
import { RecordView } from "../features/access/record-view.tsx";
import type { Route } from "./+types/audit-log";

const SHOWN = 200;

/** Who did what, newest first. */
export async function loader({ request }: Route.LoaderArgs) {
  const before = Number(new URL(request.url).searchParams.get("before") ?? Number.NaN);
  const from = Number.isSafeInteger(before) && before > 0 ? before : Number.MAX_SAFE_INTEGER;
  const rows = await recordBefore(permitAdministration(request), from, SHOWN);
  return {
    who: signedInAs(request)?.name ?? null,
    rows: rows.map(({ number, at, who, address, action, subject, status }) => ({
      number,
      at,
      who,
      address,
      action,
      subject,
      status,
    })),
    earlier: rows.length === SHOWN ? (rows.at(-1)?.number ?? null) : null,
  };
}

export function meta() {
  return [{ title: "Audit log · Iron Fork" }];
}

export default function Page({ loaderData }: Route.ComponentProps) {
  return <RecordView {...loaderData} />;
}
