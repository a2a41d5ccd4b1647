import { type Address, containsAddress, formatAddress, parseAddress } from "../../address/index.ts";
import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";
import { type Context, routeEdit, type Written } from "../context.ts";
import { defaultCircles } from "../default-circles.ts";

/** Default routes that form a loop: packets to unknown destinations circle until their TTL expires. */
export const facingDefaults: Check = {
  code: "facing-defaults",
  title: "Default routes form a routing loop",
  consequence: "lost",
  severity: "error",
  run: (context) =>
    defaultCircles(context).map(({ circle, family }) => ({
      device: circle[0].device.id,
      subject: `IPv${family} defaults of ${circle.map((w) => w.device.id).join(", ")}`,
      text: `${circle.map((w) => w.device.id).join(" and ")} point their default routes at each other. Traffic to unknown destinations loops until its TTL expires.`,
      evidence: circle.flatMap((w) => [
        context.routeEvidence(w),
        { kind: "range" as const, device: w.device.id, prefix: family === 4 ? "0.0.0.0/0" : "::/0" },
      ]),
      fixes: [
        ...circle.flatMap((w) => otherWaysOut(context, w, circle)),
        ...wrongDefaults(context, circle).map((w) =>
          routeEdit(w, null, `Remove the default ${describeRoute(w.route)} of ${w.device.label}`),
        ),
      ],
    })),
};

/** The default routes to remove: those of devices that have more specific routes to the networks behind the default's
 * neighbor. Empty if this holds for all devices of the loop or for none, since then no single one is wrong. */
function wrongDefaults(context: Context, circle: readonly Written[]): Written[] {
  const wrong = circle.filter((w) =>
    context.routes
      .of(w.device.index)
      .some(
        (other) =>
          context.isSpecific(other) &&
          other.to.address.family === w.to.address.family &&
          context.nextDevice(other) === context.nextDevice(w),
      ),
  );
  return wrong.length < circle.length ? wrong : [];
}

/** An address far outside, of each family. */
const OUTSIDE = {
  4: parseAddress("203.0.113.1") as Address,
  6: parseAddress("2001:db8:ffff::1") as Address,
};

/** Other neighbours of a device on the circle that have a default of their own leading out of it. */
function otherWaysOut(context: Context, written: Written, circle: readonly Written[]) {
  const { network } = context;
  const inCircle = new Set(circle.map((w) => w.device.index));
  const own = context.attachmentsOf(written.device.index);
  const neighbours = context.attachments.filter(
    (a) =>
      !inCircle.has(a.device) &&
      !["host", "provider", "internet"].includes(network.devices[a.device].role) &&
      own.some(
        (o) =>
          network.interfaces.link[o.interface] === network.interfaces.link[a.interface] &&
          network.interfaces.link[o.interface] >= 0 &&
          containsAddress(o.prefix, a.address),
      ) &&
      a.address.family === written.to.address.family,
  );
  return (
    neighbours
      .filter((a) =>
        context.routes
          .of(a.device)
          .some((w) => w.to.length === 0 && w.state === "in-use" && !inCircle.has(context.nextDevice(w))),
      )
      // By the way out that is shortest first.
      .map((a) => ({ a, hops: context.walkFrom(a.device, OUTSIDE[written.to.address.family]).hops.length }))
      .sort((one, other) => one.hops - other.hops)
      .map(({ a }) => {
        const { out: _out, ...rest } = written.route;
        const after = { ...rest, via: formatAddress(a.address) };
        return routeEdit(
          written,
          after,
          `Change the next hop of ${describeRoute(written.route)} on ${written.device.label} to ${network.devices[a.device].label}`,
        );
      })
  );
}
