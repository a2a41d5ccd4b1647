import { Link } from "react-router";
import { formatRouteLine } from "../../../core/authoring/index.ts";
import { type Change, staticRouteSchema } from "../../../core/plan/index.ts";
import { deviceHref } from "../../search/links.ts";
import { usePlan } from "../open-plan.tsx";

/** The changes of an edit, one a line: what goes is struck, what comes is plain. */
export function ChangeList({ changes }: { changes: readonly Change[] }) {
  return (
    <ul className="text-[13px]">
      {changes.map((change) => (
        <ChangeLine key={JSON.stringify(change)} change={change} />
      ))}
    </ul>
  );
}

export function ChangeLine({ change }: { change: Change }) {
  const { planId, params, labels } = usePlan();
  const device = "device" in change ? change.device : null;
  const gone = change.before !== null && change.before !== undefined;
  const comes = change.after !== null && change.after !== undefined;
  return (
    <li>
      {device && (
        <>
          <Link className="name-link" to={deviceHref(planId, device, params)}>
            {labels.devices.get(device) ?? device}
          </Link>
          {": "}
        </>
      )}
      {gone && (
        <>
          <span className="sr-only">{comes ? "was " : "removed "}</span>
          <del className="addr text-ink-2">{itemText(change, change.before)}</del>
        </>
      )}{" "}
      {comes && (
        <>
          <span className="sr-only">{gone ? "becomes " : "added "}</span>
          <ins className="addr no-underline">{itemText(change, change.after)}</ins>
        </>
      )}
    </li>
  );
}

/** An item in one line: a route as its line, anything else by its own fields. */
function itemText(change: Change, item: unknown): string {
  const isRoute = change.in === "policy-table" || (change.in === "device" && change.collection === "routes");
  const route = isRoute ? staticRouteSchema.safeParse(item) : null;
  if (route?.success) return formatRouteLine(route.data);
  const noun = change.in === "plan" || change.in === "device" ? `${change.collection} ` : "";
  const text = Object.entries(item as object)
    .filter(([, value]) => value !== undefined && !(Array.isArray(value) && value.length === 0))
    .map(([key, value]) => `${key} ${typeof value === "object" ? JSON.stringify(value) : value}`)
    .join(", ");
  return `${noun}${text.length > 200 ? `${text.slice(0, 200)}…` : text}`;
}
