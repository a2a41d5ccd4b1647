import { useMutation } from "@tanstack/react-query";
import { Form } from "react-router";
import type { DeviceFacts } from "../../../exchange/facts/index.ts";
import { askPlan } from "../../engine/ask.client.ts";
import { KeptParams } from "../../plan/kept-params.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import type { Drift } from "../../queries/exchange.ts";
import { Button } from "../../ui/button.tsx";

/** What devices said last, as the server keeps it. */
export interface Kept {
  readings: { id: string; device: string; readAt: Date; author: string; facts: DeviceFacts }[];
  /** The address that is looked for; `unread` where it is none. */
  find: string;
  unread: boolean;
}

/** Lines that are shown at most. */
const MOST = 300;

/** What is kept of each device, found by an address, and compared with the plan. */
export function KeptReadings({ kept }: { kept: Kept }) {
  const { page } = usePlan();
  const drift = useMutation({
    mutationFn: () => askPlan(page, "drift", { facts: kept.readings.map(({ facts }) => facts) }, "drift"),
  });
  if (kept.readings.length === 0 && kept.find === "") return null;
  return (
    <section aria-label="What devices said last" className="mt-6 max-w-4xl">
      <div className="flex flex-wrap items-end gap-3">
        <h2 className="font-semibold font-sign text-[20px]">What devices said last</h2>
        <Form method="get" className="flex items-end gap-2">
          <KeptParams but={["find"]} />
          <label className="flex flex-col text-[13px] text-ink-2">
            Who knows an address
            <input name="find" defaultValue={kept.find} className="field addr w-44" spellCheck={false} />
          </label>
          <Button type="submit">Find</Button>
        </Form>
        {kept.readings.length > 0 && (
          <Button onClick={() => drift.mutate()} disabled={drift.isPending}>
            Compare with the plan
          </Button>
        )}
      </div>
      {kept.unread && (
        <p role="alert" className="text-stop">
          "{kept.find.slice(0, 60)}" is not an IPv4 or IPv6 address; all readings are shown.
        </p>
      )}
      {drift.isError && (
        <p role="alert" className="text-stop">
          {drift.error.message}
        </p>
      )}
      {drift.data && <Differences drift={drift.data} />}
      <ul className="mt-2">
        {kept.readings.slice(0, MOST).map(({ id, device, readAt, author, facts }) => (
          <li key={id} className="flex flex-wrap gap-3 border-rule border-t py-1">
            <span className="font-medium">{device}</span>
            <span className="text-ink-2">
              {facts.interfaces.length} interfaces, {facts.routes.length} routes, {facts.neighbours.length}{" "}
              neighbours
            </span>
            <span className="ml-auto text-[13px] text-ink-2">
              {author},{" "}
              <time dateTime={new Date(readAt).toISOString()}>
                {new Date(readAt).toISOString().slice(0, 16).replace("T", " ")} UTC
              </time>
            </span>
          </li>
        ))}
        {kept.readings.length === 0 && (
          <li className="text-ink-2">No reading knows a network with {kept.find}.</li>
        )}
      </ul>
    </section>
  );
}

/** Where devices and the plan differ, one line each. */
function Differences({ drift }: { drift: Drift }) {
  const { differences, compared } = drift;
  return (
    <div role="status" className="mt-2 border border-rule p-2">
      <p className="font-semibold">
        {differences.length === 0
          ? `${compared.length === 1 ? "The device is" : `The ${compared.length} devices are`} as the plan has it.`
          : `${differences.length} ${differences.length === 1 ? "difference" : "differences"} on ${compared.length} ${compared.length === 1 ? "device" : "devices"}`}
      </p>
      <ul className="max-h-72 overflow-auto">
        {differences.slice(0, MOST).map(({ device, kind, subject, text }) => (
          <li key={`${device} ${kind} ${subject} ${text}`}>
            <span className="font-medium">{device}</span>: {text}
          </li>
        ))}
        {differences.length > MOST && <li className="text-ink-2">and {differences.length - MOST} more</li>}
      </ul>
    </div>
  );
}
