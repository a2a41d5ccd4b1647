import { containsAddress, type Family, formatAddress } from "../../address/index.ts";
import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";
import { type Context, routeEdit, type Written } from "../context.ts";

/** Defaults that lead in a circle: packets for addresses that nobody owns bounce until their hop limit runs out. */
export const facingDefaults: Check = {
  code: "facing-defaults",
  title: "Defaults lead in a circle",
  consequence: "lost",
  severity: "error",
  run: (context) => {
    const circles = new Map<string, { circle: Written[]; family: Family }>();
    for (const family of [4, 6] as const) {
      const defaults = new Map(
        context.written
          .filter(
            (w) =>
              w.state === "in-use" &&
              w.to.length === 0 &&
              w.to.address.family === family &&
              w.table === null &&
              context.forwards(w),
          )
          .map((w) => [w.device.index, w]),
      );
      for (const start of defaults.values()) {
        const way: Written[] = [];
        for (
          let at: Written | undefined = start;
          at && !way.includes(at);
          at = defaults.get(context.nextDevice(at))
        )
          way.push(at);
        const next = defaults.get(context.nextDevice(way[way.length - 1]));
        if (!next || next !== start) continue;
        const key = `${family} ${way
          .map((w) => w.device.index)
          .sort((a, b) => a - b)
          .join()}`;
        if (!circles.has(key)) circles.set(key, { circle: way, family });
      }
    }
    return [...circles.values()].map(({ circle, family }) => ({
      device: circle[0].device.id,
      subject: `IPv${family} defaults of ${circle.map((w) => w.device.id).join(", ")}`,
      text: `The defaults of ${circle.map((w) => w.device.id).join(" and ")} ${circle.length === 2 ? "face each other" : "lead in a circle"}: what nobody owns bounces between them until its hop limit runs out.`,
      evidence: circle.flatMap((w) => [
        context.routeEvidence(w),
        { kind: "range" as const, device: w.device.id, prefix: family === 4 ? "0.0.0.0/0" : "::/0" },
      ]),
      fixes: circle.flatMap((w) => otherWaysOut(context, w, circle)),
    }));
  },
};

/** Other neighbours of a device on the circle that have a default of their own leading out of it. */
function otherWaysOut(context: Context, written: Written, circle: readonly Written[]) {
  const { network } = context;
  const inCircle = new Set(circle.map((w) => w.device.index));
  const own = context.attachments.filter((a) => a.device === written.device.index);
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
  return neighbours
    .filter((a) =>
      context.written.some(
        (w) =>
          w.device.index === a.device &&
          w.to.length === 0 &&
          w.state === "in-use" &&
          !inCircle.has(context.nextDevice(w)),
      ),
    )
    .map((a) => {
      const { out: _out, ...rest } = written.route;
      const after = { ...rest, via: formatAddress(a.address) };
      return routeEdit(
        written,
        after,
        `Send ${describeRoute(written.route)} of ${written.device.label} to ${network.devices[a.device].label} instead`,
      );
    });
}
