import { Link } from "react-router";
import { formatRouteLine } from "../../../core/authoring/index.ts";
import {
  type Change,
  describeItem,
  deviceCollections,
  deviceOfChange,
  planCollections,
} from "../../../core/plan/index.ts";
import { deviceHref } from "../../search/links.ts";
import { usePlan } from "../open-plan.tsx";

/** The changes of an edit, one per line, each marked as added, removed or changed. */
export function ChangeList({ changes }: { changes: readonly Change[] }) {
  return (
    <ul className="text-[13px]">
      {changes.map((change) => (
        <ChangeLine key={JSON.stringify(change)} change={change} />
      ))}
    </ul>
  );
}

/** The same with a heading per device, and one for changes on no device. */
export function ChangesByDevice({ changes }: { changes: readonly Change[] }) {
  const { planId, params, labels } = usePlan();
  const groups = new Map<string, Change[]>();
  for (const change of changes) {
    const id = deviceOfChange(change) ?? "";
    groups.set(id, [...(groups.get(id) ?? []), change]);
  }
  return (
    <div className="space-y-2">
      {[...groups].map(([id, own]) => (
        <section key={id} aria-label={id === "" ? "The plan" : (labels.devices.get(id) ?? id)}>
          <h3 className="font-semibold">
            {id === "" ? (
              "Links, flows and other items"
            ) : (
              <Link className="name-link" to={deviceHref(planId, id, params)}>
                {labels.devices.get(id) ?? id}
              </Link>
            )}
          </h3>
          <ul className="text-[13px]">
            {own.map((change) => (
              <ChangeLine key={JSON.stringify(change)} change={change} bare />
            ))}
          </ul>
        </section>
      ))}
    </div>
  );
}

const signs = {
  added: { sign: "+", looks: "border-come text-come" },
  removed: { sign: "−", looks: "border-stop text-stop" },
  changed: { sign: "±", looks: "border-warn text-warn" },
} as const;

/** One change by sign, word and color; `bare` if its device is in the heading. */
function ChangeLine({ change, bare }: { change: Change; bare?: boolean }) {
  const { planId, params, labels } = usePlan();
  const device = !bare && "device" in change ? change.device : null;
  const gone = change.before !== null && change.before !== undefined;
  const comes = change.after !== null && change.after !== undefined;
  const word = gone ? (comes ? "changed" : "removed") : "added";
  const { sign, looks } = signs[word];
  return (
    <li className="flex gap-2 py-px">
      <span
        className={`mt-px h-[18px] w-[76px] shrink-0 whitespace-nowrap rounded-[3px] border px-1 font-semibold text-[12px] leading-[16px] ${looks}`}
      >
        <span aria-hidden="true">{sign}</span> {word}
      </span>
      <span className="min-w-0 break-words">
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
            {comes && <span className="sr-only">was </span>}
            <del className="addr text-ink-2">{itemText(change, change.before)}</del>
          </>
        )}
        {gone && comes && (
          <>
            {" "}
            <span className="sr-only">becomes</span>
          </>
        )}{" "}
        {comes && <ins className="addr no-underline">{itemText(change, change.after)}</ins>}
      </span>
    </li>
  );
}

/** An item in one line with its kind, such as "interface wan1 addresses 172.20.16.1/24". */
function itemText(change: Change, item: unknown): string {
  const noun =
    change.in === "plan"
      ? planCollections[change.collection].noun
      : change.in === "device" && change.collection !== "routes"
        ? deviceCollections[change.collection].noun
        : "";
  return `${noun} ${describeItem(change, item as object, formatRouteLine)}`.trim();
}
