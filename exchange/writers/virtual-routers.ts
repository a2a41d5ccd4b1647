import type { Interface, VirtualRouter } from "../../core/plan/index.ts";

const ofFamily = (family: 4 | 6) => (address: string) => address.includes(":") === (family === 6);

function instanceOf(router: VirtualRouter, family: 4 | 6) {
  const { id, addresses, priority, preempt, preemptDelayMs, advertMs, accept, track } = router;
  const key = `ipv${family}-address`;
  const tracked = track.flatMap(({ interface: port, lower }) =>
    port === undefined ? [] : [{ interface: port, "priority-decrement": lower }],
  );
  return {
    vrid: id,
    version: "ietf-vrrp:vrrp-v3",
    // The model holds whole seconds.
    preempt: { enabled: preempt, "hold-time": Math.round(preemptDelayMs / 1000) },
    priority,
    "accept-mode": accept,
    "advertise-interval-centi-sec": Math.round(advertMs / 10),
    ...(tracked.length > 0 ? { track: { interfaces: { interface: tracked } } } : {}),
    [`virtual-ipv${family}-addresses`]: {
      [`virtual-ipv${family}-address`]: addresses
        .filter(ofFamily(family))
        .map((address) => ({ [key]: address })),
    },
  };
}

/** RFC 8347: the virtual routers of an interface in one family; what tracks a watch has no place in the model. */
export function instancesOf({ virtual = [] }: Interface, family: 4 | 6) {
  return virtual
    .filter(({ addresses }) => addresses.some(ofFamily(family)))
    .map((router) => instanceOf(router, family));
}

/** Whether the model can express all settings of a virtual router. */
export function isFullyExpressible({ track, sync, preemptDelayMs }: VirtualRouter): boolean {
  return track.every(({ watch }) => watch === undefined) && sync === undefined && preemptDelayMs % 1000 === 0;
}
