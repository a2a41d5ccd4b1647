import { Link } from "react-router";
import { usePlan } from "../../plan/open-plan.tsx";
import { EditLink } from "../../plan/rights.tsx";
import type { DeviceAnswer } from "../../queries/device.ts";
import type { VirtualView } from "../../queries/sharing.ts";
import { deviceHref } from "../../search/links.ts";

/** The virtual routers on an interface: the Active one, the candidates, and tracked items that lower priorities. */
export function VirtualRouters({ answer, port }: { answer: DeviceAnswer; port: string }) {
  const own = answer.virtuals.filter((one) => one.port === port);
  return (
    <>
      {own.map((router) => (
        <VirtualLine key={`${router.id} ${router.addresses.join()}`} router={router} />
      ))}
      {own.length > 0 && (
        <EditLink className="name-link text-[13px] text-ink-2" edit={`virtual:${port}/`}>
          add virtual router
        </EditLink>
      )}
    </>
  );
}

function VirtualLine({ router }: { router: VirtualView }) {
  const { planId, params } = usePlan();
  const { id, port, place, addresses, state, priority, written, tracks, others } = router;
  return (
    <div className="mt-1 border-rule border-l-2 pl-2 text-[13px] leading-[18px]" data-virtual={id}>
      <p className="flex items-baseline gap-2">
        <span className={state === "Active" ? "font-semibold" : "text-ink-2"}>{state}</span>
        <span className="text-ink-2">
          {priority !== written && <del>{written}</del>} {priority}
          {router.owner && ", address owner"}
        </span>
        <EditLink
          className="name-link ml-auto text-ink-2"
          edit={`virtual:${port}/${place}`}
          aria-label={`Edit the virtual router ${id} on ${port}`}
        >
          edit
        </EditLink>
      </p>
      <p className="addr break-all">{addresses.join(", ")}</p>
      {tracks.map(({ what, up, lower }) => (
        <p key={what} className={up ? "text-ink-2" : "text-stop"}>
          {what} {up ? "up" : "down"}: {up ? `lowers the priority by ${lower} while down` : `takes ${lower}`}
        </p>
      ))}
      {others.map((other) => (
        <p key={other.device} className="text-ink-2">
          <Link className="name-link" to={deviceHref(planId, other.device, params)}>
            {other.label}
          </Link>{" "}
          {other.state}, {other.priority}
        </p>
      ))}
    </div>
  );
}

/** What the device is in its pair. */
export function PairLine({ pair }: { pair: NonNullable<DeviceAnswer["pair"]> }) {
  const { planId, params } = usePlan();
  const { other } = pair;
  return (
    <p className="text-ink-2" data-testid="pair">
      <strong className="text-ink">{pair.active ? "Active" : "Standby"}</strong> member of the pair{" "}
      {pair.label}, with{" "}
      <Link className="name-link" to={deviceHref(planId, other.device, params)}>
        {other.label}
      </Link>
      {pair.active === other.active && (pair.active ? ", which is also active" : ", which is also standby")}
      {!pair.hearEachOther && <span className="text-stop">; heartbeat lost</span>}
      {!pair.syncStates && "; session state is not synchronized"}
    </p>
  );
}
