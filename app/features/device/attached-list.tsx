import { Link, useLocation } from "react-router";
import { watchPhrase } from "../../../core/plan/index.ts";
import { DeviceBuilder } from "../../plan/forms/device-builder.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import { EditLink } from "../../plan/rights.tsx";
import type { DeviceAnswer } from "../../queries/device.ts";
import { deviceHref, toggleHref } from "../../search/links.ts";
import { DeviceParts } from "./device-parts.tsx";
import { VirtualRouters } from "./shared-parts.tsx";

interface AttachedListProps {
  answer: DeviceAnswer;
}

/** The networks that the device is attached to, and so already knows; its watches; both edited in place. */
export function AttachedList({ answer }: AttachedListProps) {
  const { planId, params } = usePlan();
  const { pathname } = useLocation();
  const edit = params.get("edit");
  return (
    <section
      aria-label="Attached networks"
      className={`shrink-0 overflow-y-auto border-rule border-b p-4 lg:border-r lg:border-b-0 ${edit === null ? "lg:w-56" : "lg:w-80"}`}
    >
      {edit !== null && (
        <div className="mb-4 border-ink border-b-2 pb-3">
          <DeviceBuilder device={answer.device.id} chosen={edit} />
        </div>
      )}
      <h2 className="font-semibold">Attached</h2>
      <ul className="mt-1">
        {answer.attached.map((port) => {
          const ref = `interface:${answer.device.id}/${port.name}`;
          const failed = params.getAll("down").includes(ref);
          return (
            <li key={port.name} className="border-rule border-t py-2">
              <p className="flex items-baseline gap-2">
                <span className={`addr font-semibold ${port.up ? "" : "text-ink-3 line-through"}`}>
                  {port.name}
                </span>
                <EditLink
                  edit={`port:${port.name}`}
                  className="name-link ml-auto text-[13px] text-ink-2"
                  aria-label={`Edit ${port.name}`}
                >
                  edit
                </EditLink>
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
              <ZoneOf answer={answer} port={port.name} />
              <VirtualRouters answer={answer} port={port.name} />
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
      {answer.attached.length === 0 && <p className="text-ink-2">No interfaces in VRF {answer.vrf}.</p>}
      <p className="mt-2 flex flex-wrap gap-1.5">
        <EditLink className="button" edit="port:">
          Add interface
        </EditLink>
        <EditLink className="button" edit="list">
          Paste list
        </EditLink>
      </p>
      <WatchList answer={answer} pathname={pathname} />
      <DeviceParts answer={answer} />
    </section>
  );
}

/** The zone of an interface, with its rank if the policy orders zones by trust. */
function ZoneOf({ answer, port }: { answer: DeviceAnswer; port: string }) {
  const zone = answer.interfaces.find(({ name }) => name === port)?.zone;
  if (!zone) return null;
  const trust = answer.settings.policy?.trust ?? [];
  const rank = trust.indexOf(zone) + 1;
  return (
    <p className="text-[13px] text-ink-2">
      zone <strong className="font-medium text-ink">{zone}</strong>
      {rank > 0 && `, trust ${rank} of ${trust.length}`}
    </p>
  );
}

/** The device's watches, each with its target and state. */
function WatchList({ answer, pathname }: { answer: DeviceAnswer; pathname: string }) {
  const { params } = usePlan();
  if (answer.device.role === "internet") return null;
  return (
    <>
      <h2 className="mt-5 font-semibold">Watches</h2>
      <ul className="mt-1">
        {answer.watches.map(({ watch, up, assumed }) => {
          const ref = `watch:${answer.device.id}/${watch.id}`;
          const failed = params.getAll("down").includes(ref);
          return (
            <li key={watch.id} className="border-rule border-t py-1.5" data-watch={watch.id}>
              <p className="flex items-baseline gap-2">
                <span className="addr font-semibold">{watch.id}</span>
                <span className={up ? "text-ink-2" : "font-medium text-stop"}>{up ? "up" : "down"}</span>
                <EditLink
                  edit={`watch:${watch.id}`}
                  className="name-link ml-auto text-[13px] text-ink-2"
                  aria-label={`Edit the watch ${watch.id}`}
                >
                  edit
                </EditLink>
                <Link
                  to={toggleHref(pathname, params, ref)}
                  className="name-link text-[13px] text-ink-2"
                  aria-label={`${failed ? "Restore" : "Fail"} the watch ${watch.id}`}
                >
                  {failed ? "restore" : "fail"}
                </Link>
              </p>
              <p className="text-[13px] text-ink-2 leading-[17px]">{watchPhrase(watch)}</p>
              {assumed && (
                <p className="text-[13px] text-ink-2 leading-[17px]">Assuming a host at {assumed}.</p>
              )}
            </li>
          );
        })}
      </ul>
      {answer.watches.length === 0 && <p className="text-ink-2">No watches (BFD sessions and probes) yet.</p>}
      <p className="mt-2">
        <EditLink className="button" edit="watch:">
          Add watch
        </EditLink>
      </p>
    </>
  );
}
