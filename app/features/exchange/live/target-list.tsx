import { Form, Link } from "react-router";
import { durationText } from "../../../../core/plan/index.ts";

import { usePlan } from "../../../plan/open-plan.tsx";
import { pageHref } from "../../../search/links.ts";
import { Button } from "../../../ui/button.tsx";
import { ClockTime } from "../../../ui/clock-time.tsx";
import type { CredentialView } from "./credentials.tsx";
import { wayNames } from "./way-names.ts";

export interface TargetView {
  id: string;
  device: string;
  address: string;
  port: number;
  way: keyof typeof wayNames;
  credential: string;
  everyMinutes: number | null;
  known: boolean;
  /** The key presented at first contact, to be confirmed; null without one. */
  offered: string | null;
  stale: boolean;
  lastReadAt: Date | null;
  run: {
    id: string;
    state: "waiting" | "reading" | "read" | "failed" | "cancelled";
    told: string;
    differences: number | null;
  } | null;
}

export const isUnderWay = ({ run }: TargetView) => run?.state === "waiting" || run?.state === "reading";

/** Each device that is read: where, how, how often, and how its last reading went. */
export function TargetList({
  targets,
  credentials,
  administers,
  edits,
}: {
  targets: readonly TargetView[];
  credentials: readonly CredentialView[];
  administers: boolean;
  /** Whether the user may poll and change devices. */
  edits: boolean;
}) {
  if (targets.length === 0) return null;
  const names = new Map(credentials.map(({ id, name }) => [id, name]));
  return (
    <div className="mt-2 overflow-x-auto">
      <table
        aria-label="Polled devices"
        className="w-full min-w-[820px] border-collapse text-left text-[13px]"
      >
        <thead>
          <tr className="border-rule border-b text-ink-2">
            {["device", "address", "protocol", "interval", "last reading", ""].map((head) => (
              <th key={head} className="px-2 py-1 font-normal">
                {head || <span className="sr-only">actions</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {targets.map((target) => (
            <tr key={target.id} data-target={target.device} className="border-rule border-b align-top">
              <th scope="row" className="px-2 py-1 font-medium text-[14px]">
                {target.device}
              </th>
              <td className="addr whitespace-nowrap px-2 py-1">
                {target.address} {target.port}
              </td>
              <td className="px-2 py-1">
                {wayNames[target.way]}, {names.get(target.credential)}
              </td>
              <td className="px-2 py-1">
                {target.everyMinutes === null ? "manual" : durationText(target.everyMinutes * 60_000)}
              </td>
              <td className="px-2 py-1">
                <LastReading target={target} />
                {target.offered !== null && <OfferedKey target={target} administers={administers} />}
              </td>
              <td className="px-2 py-1">{edits && <Doings target={target} administers={administers} />}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** The state and result of a target's last poll. */
export function LastReading({ target: { run, lastReadAt, stale } }: { target: TargetView }) {
  const { planId, params } = usePlan();
  const progress = run?.told || "connecting";
  return (
    <div>
      {run?.state === "waiting" && <span className="text-ink-2">queued</span>}
      {run?.state === "reading" && <span className="text-ink-2">reading: {progress}</span>}
      {run?.state === "cancelled" && <span className="text-ink-2">cancelled</span>}
      {run?.state === "failed" && <span className="font-medium text-stop">× failed: {run.told}</span>}
      {run?.state === "read" && (
        <span>
          {run.told};{" "}
          {run.differences === 0
            ? "matches the plan"
            : run.differences !== null && (
                <Link className="name-link font-medium text-warn" to={pageHref(planId, "drift", params)}>
                  {run.differences} {run.differences === 1 ? "difference" : "differences"} from the plan
                </Link>
              )}
        </span>
      )}
      <div className={stale ? "font-medium text-warn" : "text-ink-2"}>
        {lastReadAt ? (
          <>
            read <ClockTime at={lastReadAt} />
            {stale ? ", overdue" : ""}
          </>
        ) : (
          "never polled"
        )}
      </div>
    </div>
  );
}

/** A key that is not confirmed: the device receives no credentials before an administrator has compared it. */
export function OfferedKey({ target, administers }: { target: TargetView; administers: boolean }) {
  return (
    <Form method="post" className="mt-1 flex flex-wrap items-center gap-2">
      <input type="hidden" name="target" value={target.id} />
      <input type="hidden" name="key" value={target.offered ?? ""} />
      <span>
        Key (SHA-256): <code className="addr break-all">{target.offered}</code>
      </span>
      {administers ? (
        <Button
          type="submit"
          name="do"
          value="confirm-proof"
          aria-label={`Confirm the key of ${target.device}`}
        >
          Confirm key
        </Button>
      ) : (
        <span className="text-ink-2">An administrator of the plan must confirm it.</span>
      )}
    </Form>
  );
}

function Doings({ target, administers }: { target: TargetView; administers: boolean }) {
  const { run, id, known, device } = target;
  return (
    <Form method="post" className="flex items-center gap-2 whitespace-nowrap">
      <input type="hidden" name="target" value={id} />
      <input type="hidden" name="run" value={run?.id ?? ""} />
      {isUnderWay(target) ? (
        <Button type="submit" name="do" value="cancel" aria-label={`Cancel polling ${device}`}>
          Cancel
        </Button>
      ) : (
        <Button type="submit" name="do" value="read" aria-label={`Poll ${device}`}>
          {" "}
          Poll{" "}
        </Button>
      )}
      {known && administers && (
        <Button
          type="submit"
          look="quiet"
          name="do"
          value="forget-proof"
          aria-label={`Remove the key of ${device}`}
        >
          Remove key
        </Button>
      )}
      <Button
        type="submit"
        look="quiet"
        name="do"
        value="drop-target"
        aria-label={`Remove ${device} from polling`}
      >
        Remove
      </Button>
    </Form>
  );
}
