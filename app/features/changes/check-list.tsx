import { useFetcher } from "react-router";
import type { Check } from "../../../core/steps/index.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { ClockTime } from "../../ui/clock-time.tsx";
import { agrees } from "./agrees.ts";
import { flowWords } from "./flow-words.ts";
import type { ChangeShown } from "./shown.ts";
import { Tick } from "./tick.tsx";

interface CheckListProps {
  title: string;
  item: string;
  checks: readonly Check[];
  change: ChangeShown["change"];
  live: ChangeShown["seen"];
}

/** Checks of a visit as one item: lines of a table, flows to try; beside each what the device was last read to say. */
export function CheckList({ title, item, checks, change, live }: CheckListProps) {
  if (checks.length === 0) return null;
  const tables = checks.filter((check) => check.kind === "table");
  const device = tables[0]?.device;
  return (
    <div className="border-rule border-t py-1">
      <Tick item={item} change={change} label={<span className="font-medium">{title}</span>} />
      <ul className="ml-7 text-[14px]">
        {checks.map((check) => (
          <li key={check.kind === "table" ? `${check.vrf} ${check.to}` : `flow ${check.flow}`}>
            <CheckLine check={check} live={live} />
          </li>
        ))}
      </ul>
      {device && <ReadNow device={device} live={live} />}
    </div>
  );
}

function CheckLine({ check, live }: { check: Check; live: ChangeShown["seen"] }) {
  const { labels } = usePlan();
  if (check.kind === "flow") {
    const by = check.carriers.map((id) => labels.gateways.get(id) ?? id).join(", then ");
    return (
      <>
        Test {labels.flows.get(check.flow) ?? check.flow}: it {flowWords[check.verdict]}
        {by && ` by ${by}`}.
      </>
    );
  }
  const line = live.seen[check.device]?.lines.find(({ vrf, to }) => vrf === check.vrf && to === check.to);
  return (
    <>
      <span className="addr">{check.to}</span>
      {check.vrf !== "main" && ` in VRF ${check.vrf}`}{" "}
      {check.inUse.length > 0 ? (
        <span className="addr">{check.inUse.join(" and ")}</span>
      ) : (
        "is not in the table"
      )}
      {line && (
        <span className={`ml-2 text-[13px] ${agrees(check, line) ? "text-come" : "text-ink-2"}`}>
          {agrees(check, line)
            ? "✓ as read"
            : `✗ read ${line.inUse.length > 0 ? line.inUse.join(" and ") : "not in the table"}`}
        </span>
      )}
    </>
  );
}

/** When the device was last read, and reading it again; nothing where it cannot be read. */
function ReadNow({ device, live }: { device: string; live: ChangeShown["seen"] }) {
  const { planId } = usePlan();
  const fetcher = useFetcher();
  const target = live.targets.find((one) => one.device === device);
  const readAt = live.seen[device]?.readAt;
  if (!target && !readAt) return null;
  return (
    <p className="ml-7 flex items-center gap-2 text-[13px] text-ink-2">
      {readAt && (
        <span>
          Last read <ClockTime at={readAt} />
        </span>
      )}
      {target && (
        <fetcher.Form method="post" action={`/plans/${planId}/polling`}>
          <input type="hidden" name="do" value="read" />
          <input type="hidden" name="target" value={target.target} />
          <button type="submit" className="button" disabled={target.reading || fetcher.state !== "idle"}>
            {target.reading ? "Polling …" : "Poll now"}
          </button>
        </fetcher.Form>
      )}
    </p>
  );
}
