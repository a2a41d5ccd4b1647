import { Link } from "react-router";
import { usePlan } from "../../plan/open-plan.tsx";
import type { DeviceRow, RoutesAnswer } from "../../queries/routes.ts";
import { deviceHref, pageHref } from "../../search/links.ts";
import { RoleSign } from "../../ui/plate.tsx";

/** Every device with how its routes fare; each leads to its own table. */
export function RoutesView({ answer }: { answer: RoutesAnswer }) {
  const { planId, params } = usePlan();
  const sites = [...new Set(answer.devices.map((device) => device.site))];
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 py-3">
      <h1 className="font-semibold font-sign text-[26px]">Routes by device</h1>
      <p className="text-ink-2">
        Static, learned and system routes, without those of attached networks. Choose a device to see and
        write its routes, or write on several at once at the{" "}
        <Link className="name-link font-medium text-ink" to={pageHref(planId, "desk", params)}>
          route desk
        </Link>
        ; what can be written shorter stands under{" "}
        <Link className="name-link font-medium text-ink" to={pageHref(planId, "summaries", params)}>
          summaries
        </Link>
        .
      </p>
      {answer.devices.length === 0 && <p className="mt-6 text-ink-2">This plan has no devices yet.</p>}
      {answer.devices.length > 0 && (
        <table className="mt-3 w-full max-w-5xl text-left">
          <thead className="text-[13px] text-ink-2">
            <tr className="border-rule border-b">
              <th className="py-1 font-normal">device</th>
              <th className="font-normal">role</th>
              <th className="pr-4 text-right font-normal">interfaces</th>
              <th className="pr-4 text-right font-normal">in use</th>
              <th className="pr-4 text-right font-normal">standing by</th>
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
      )}
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
