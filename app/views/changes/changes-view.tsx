import { Link, useParams, useSearchParams } from "react-router";
import { type Change, describeRoute, staticRouteSchema } from "../../../core/plan/index.ts";
import type { HistoryEntry } from "../../../server/plans.ts";
import type { Known } from "../../data/known.ts";
import { deviceHref } from "../../ui/links.ts";

const kinds = { load: "loaded", edit: "", undo: "undo of", redo: "redo of" };

/** Every revision: who made it, when, why, and what it changed. */
export function ChangesView({ page, history }: { page: Known; history: HistoryEntry[] }) {
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 py-3">
      <div className="flex flex-wrap items-baseline gap-4">
        <h1 className="font-semibold font-sign text-[26px]">Changes</h1>
        <a className="name-link" href={`/plans/${page.planId}/document?format=yaml`}>
          This revision as YAML
        </a>
        <a className="name-link" href={`/plans/${page.planId}/document?format=json`}>
          as JSON
        </a>
      </div>
      <ol className="mt-3 max-w-4xl">
        {history.map((entry) => (
          <li key={entry.number} className="flex gap-4 border-rule border-t py-2">
            <span className="w-10 shrink-0 text-right font-semibold">{entry.number}</span>
            <div className="min-w-0 flex-1">
              <p>
                <span className="text-ink-2">{kinds[entry.kind]} </span>
                {entry.why}
              </p>
              <ul className="text-[13px] text-ink-2">
                {entry.edit?.changes.map((change) => (
                  <ChangeLine key={JSON.stringify(change)} change={change} />
                ))}
              </ul>
            </div>
            <span className="shrink-0 text-right text-[13px] text-ink-2">
              {entry.author}
              <br />
              <time dateTime={new Date(entry.madeAt).toISOString()}>
                {new Date(entry.madeAt).toISOString().slice(0, 16).replace("T", " ")} UTC
              </time>
            </span>
          </li>
        ))}
      </ol>
    </div>
  );
}

function ChangeLine({ change }: { change: Change }) {
  const { plan } = useParams();
  const [params] = useSearchParams();
  const device = "device" in change ? change.device : null;
  return (
    <li>
      {device && (
        <>
          <Link className="name-link" to={deviceHref(plan ?? "", device, params)}>
            {device}
          </Link>
          {": "}
        </>
      )}
      {change.before !== null && change.before !== undefined && (
        <del className="addr">{itemText(change, change.before)}</del>
      )}{" "}
      {change.after !== null && change.after !== undefined && (
        <ins className="addr no-underline">{itemText(change, change.after)}</ins>
      )}
    </li>
  );
}

/** An item in one line: a route as people write it, anything else by its own fields. */
function itemText(change: Change, item: unknown): string {
  const route = staticRouteSchema.safeParse(item);
  if (route.success) {
    const { distance, metric, enabled, watch } = route.data;
    const extras = [
      distance === undefined ? "" : `distance ${distance}`,
      metric === undefined ? "" : `metric ${metric}`,
      watch === undefined ? "" : `watch ${watch}`,
      enabled === false ? "disabled" : "",
    ];
    return [describeRoute(route.data), ...extras.filter((text) => text !== "")].join(" ");
  }
  const text = JSON.stringify(item);
  return `${change.in === "plan" || change.in === "device" ? `${change.collection} ` : ""}${text.length > 160 ? `${text.slice(0, 160)}…` : text}`;
}
