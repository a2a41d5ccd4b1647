import { Link, useLocation } from "react-router";
import type { DeviceAnswer } from "../../answers/device.ts";
import { deviceHref, toggleHref } from "../../ui/links.ts";

/** The networks that the device is attached to, and so already knows. */
export function AttachedList({
  planId,
  answer,
  params,
}: {
  planId: string;
  answer: DeviceAnswer;
  params: URLSearchParams;
}) {
  const { pathname } = useLocation();
  return (
    <section
      aria-label="Attached networks"
      className="shrink-0 overflow-y-auto border-rule border-b p-4 lg:w-56 lg:border-r lg:border-b-0"
    >
      <h2 className="font-semibold">Attached</h2>
      <ul className="mt-1">
        {answer.attached.map((port) => {
          const ref = `interface:${answer.device.id}/${port.name}`;
          const failed = params.getAll("down").includes(ref);
          return (
            <li key={port.name} className="border-rule border-t py-2">
              <p className="flex items-baseline justify-between gap-2">
                <span className={`addr font-semibold ${port.up ? "" : "text-ink-3 line-through"}`}>
                  {port.name}
                </span>
                <Link
                  to={toggleHref(pathname, params, ref)}
                  className="name-link text-[13px] text-ink-2"
                  aria-label={`${failed ? "Restore" : "Fail"} ${port.name}`}
                >
                  {failed ? "restore" : "fail"}
                </Link>
              </p>
              {port.addresses.map((address) => (
                <p key={address} className={`addr break-all ${port.up ? "" : "text-ink-3 line-through"}`}>
                  {address}
                </p>
              ))}
              <p className="text-ink-2">
                {port.neighbours.map((neighbour, i) => (
                  <span key={neighbour.device}>
                    {i > 0 && ", "}
                    <Link className="name-link" to={deviceHref(planId, neighbour.device, params)}>
                      {neighbour.label}
                    </Link>
                  </span>
                ))}
                {port.kind === "loopback" && "itself"}
              </p>
              {!port.up && (
                <p className="text-stop text-[13px] leading-[17px]">
                  {port.because.replace(`${port.name} `, "")}
                </p>
              )}
            </li>
          );
        })}
      </ul>
      {answer.attached.length === 0 && (
        <p className="text-ink-2">This device has no interfaces in VRF {answer.vrf}.</p>
      )}
    </section>
  );
}
