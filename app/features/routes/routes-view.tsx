import { Link, useNavigate } from "react-router";
import { usePlan } from "../../plan/open-plan.tsx";
import { useRights } from "../../plan/rights.tsx";
import type { DeviceRow, RoutesAnswer } from "../../queries/routes.ts";
import { deviceHref, pageHref, withParam } from "../../search/links.ts";
import { routeFilterOf } from "../../search/route-filter.ts";
import { RoleSign } from "../../ui/plate.tsx";
import { ChooseOne } from "../../ui/toggle-group.tsx";
import { RouteFilters } from "./route-filters.tsx";
import { RouteTable } from "./route-table.tsx";

/** The routes of the whole network: list, or by device. */
export function RoutesView({ answer }: { answer: RoutesAnswer }) {
  const { planId, params } = usePlan();
  const navigate = useNavigate();
  const filter = routeFilterOf(params);
  const { edits } = useRights();
  const byDevice = params.get("by") === "device";
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="space-y-2 border-rule border-b px-4 py-3">
        <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
          <h1 className="font-semibold font-sign text-[26px] leading-8">Routes</h1>
          <Totals answer={answer} />
          <span className="ml-auto flex flex-wrap items-center gap-2">
            {edits && (
              <Link className="button" to={pageHref(planId, "add-routes", params)}>
                Add routes
              </Link>
            )}
            <Link className="button" to={pageHref(planId, "summaries", params)}>
              Summaries
            </Link>
            <ChooseOne
              label="Show"
              options={[
                { value: "route", text: "list" },
                { value: "device", text: "by device" },
              ]}
              value={byDevice ? "device" : "route"}
              onChange={(by) => navigate(withParam(params, "by", by === "device" ? by : null))}
            />
          </span>
        </div>
        {!byDevice && <RouteFilters answer={answer} filter={filter} />}
        {!byDevice && (
          <p role="status" className="text-[13px] text-ink-2" data-testid="found">
            {answer.found} of {Object.values(answer.totals).reduce((sum, n) => sum + n, 0)} routes
            {answer.found > answer.routes.length &&
              `; the first ${answer.routes.length} are listed; use the filter to find others`}
          </p>
        )}
      </div>
      {answer.devices.length === 0 && (
        <p className="px-4 py-6 text-ink-2">
          No devices yet. Add devices on{" "}
          <Link className="name-link" to={pageHref(planId, "map", params, { edit: "new:device" })}>
            Network
          </Link>
          .
        </p>
      )}
      {answer.devices.length > 0 && byDevice && <ByDevice answer={answer} />}
      {answer.devices.length > 0 && !byDevice && answer.found > 0 && (
        <RouteTable routes={answer.routes} filter={filter} />
      )}
      {answer.devices.length > 0 && !byDevice && answer.found === 0 && (
        <p className="px-4 py-6 text-ink-2">
          No routes match the filter.{" "}
          <Link className="name-link" to={pageHref(planId, "routes", params)}>
            Clear filter
          </Link>
        </p>
      )}
    </div>
  );
}

const words = { "in-use": "active", standby: "standby", unusable: "unusable", disabled: "disabled" };

/** How many routes there are by state, and how many before the draft where that differs. */
function Totals({ answer: { totals, totalsApproved } }: { answer: RoutesAnswer }) {
  const written = usePlan().frame.counts.unusable;
  return (
    <p className="flex flex-wrap gap-x-3 text-ink-2" data-testid="totals">
      {Object.entries(words).map(([state, word]) => {
        const now = totals[state] ?? 0;
        const before = totalsApproved ? (totalsApproved[state] ?? 0) : now;
        return (
          <span key={state}>
            <strong className={state === "unusable" && now > 0 ? "text-stop" : "text-ink"}>{now}</strong>{" "}
            {word}
            {before !== now && `, ${before} before the draft`}
            {state === "unusable" &&
              now > written &&
              ` (${written} of them static or learned, on devices in service)`}
          </span>
        );
      })}
    </p>
  );
}

/** Every device with its routes by state; each links to its own table. */
function ByDevice({ answer }: { answer: RoutesAnswer }) {
  const { planId, params } = usePlan();
  const sites = [...new Set(answer.devices.map((device) => device.site))];
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 py-2">
      <table className="mt-1 w-full max-w-5xl text-left">
        <thead className="text-[13px] text-ink-2">
          <tr className="border-rule border-b">
            <th className="py-1 font-normal">device</th>
            <th className="font-normal">role</th>
            <th className="pr-4 text-right font-normal">interfaces</th>
            <th className="pr-4 text-right font-normal">active</th>
            <th className="pr-4 text-right font-normal">standby</th>
            <th className="pr-4 text-right font-normal">unusable</th>
            <th className="text-right font-normal">disabled</th>
          </tr>
        </thead>
        {sites.map((site) => (
          <tbody key={site}>
            <tr>
              <th
                colSpan={7}
                scope="rowgroup"
                className="pt-3 font-semibold font-sign text-ink-2 uppercase tracking-wide"
              >
                {site.replaceAll("-", " ") || "no site"}
              </th>
            </tr>
            {answer.devices
              .filter((device) => device.site === site)
              .map((device) => (
                <Row key={device.id} device={device} href={deviceHref(planId, device.id, params)} />
              ))}
          </tbody>
        ))}
      </table>
    </div>
  );
}

function Row({ device, href }: { device: DeviceRow; href: string }) {
  const number = (value: number, bad = false) => (
    <td className={`pr-4 text-right ${value === 0 ? "text-ink-3" : bad ? "font-semibold text-stop" : ""}`}>
      {value}
    </td>
  );
  return (
    <tr className="border-rule border-b">
      <td className="py-1">
        <span className="flex items-center gap-2">
          <RoleSign role={device.role} size={11} />
          <Link to={href} className="name-link font-medium">
            {device.label}
          </Link>
          {!device.up && <span className="text-stop">down</span>}
        </span>
      </td>
      <td className="text-ink-2">{device.role}</td>
      <td className="pr-4 text-right">
        {device.interfaces}
        {device.interfacesDown > 0 && <span className="text-stop"> ({device.interfacesDown} down)</span>}
      </td>
      {number(device.inUse)}
      {number(device.standby)}
      {number(device.unusable, true)}
      <td className={`text-right ${device.disabled === 0 ? "text-ink-3" : ""}`}>{device.disabled}</td>
    </tr>
  );
}
