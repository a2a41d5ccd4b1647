import { z } from "zod";
import { parseAddress, parsePrefix } from "../address/index.ts";
import {
  addressField,
  distanceField,
  metricField,
  millisecondsField,
  nameField,
  noteField,
  prefixField,
} from "./fields.ts";

/** What a next hop may resolve through, as a route may say it (rule 4.3). */
const resolveField = z.enum(["connected", "any"]);

function familyOfPrefix(text: string) {
  return parsePrefix(text)?.address.family;
}

function checkNextHopFamily(route: { to: string; via?: string }, ctx: z.RefinementCtx) {
  if (!route.via) return;
  if (familyOfPrefix(route.to) !== parseAddress(route.via)?.family) {
    ctx.addIssue({
      code: "custom",
      path: ["via"],
      message: `the next hop ${route.via} and the destination ${route.to} have different address families`,
    });
  }
}

export const staticRouteSchema = z
  .strictObject({
    to: prefixField,
    via: addressField.optional(),
    /** Instead of via: the gateway that was handed out on this interface, whatever it is today (rule 4.9). */
    viaFrom: nameField.optional(),
    out: nameField.optional(),
    vrf: nameField.optional(),
    distance: distanceField.optional(),
    metric: metricField.optional(),
    /** Its share among equal routes, by the sum of their weights (rule 5.1). */
    weight: z
      .number()
      .int()
      .min(1, "a weight must be 1 to 256")
      .max(256, "a weight must be 1 to 256")
      .optional(),
    resolve: resolveField.optional(),
    onLink: z.boolean().optional(),
    watch: nameField.optional(),
    enabled: z.boolean().optional(),
    note: noteField.optional(),
    discard: z.enum(["drop", "reject"]).optional(),
    toVrf: nameField.optional(),
  })
  .superRefine((route, ctx) => {
    const forwards = route.via !== undefined || route.out !== undefined || route.viaFrom !== undefined;
    if (route.viaFrom !== undefined && route.via !== undefined) {
      ctx.addIssue({
        code: "custom",
        path: ["viaFrom"],
        message: `the route to ${route.to} has both \`via\` and \`viaFrom\`; keep one of them`,
      });
    }
    if (route.viaFrom !== undefined && route.out !== undefined && route.out !== route.viaFrom) {
      ctx.addIssue({
        code: "custom",
        path: ["out"],
        message: `the gateway is assigned on ${route.viaFrom}, but the route leaves by ${route.out}`,
      });
    }
    const ways = [forwards, route.discard !== undefined, route.toVrf !== undefined].filter(Boolean).length;
    if (ways === 0) {
      ctx.addIssue({
        code: "custom",
        message: `the route to ${route.to} has no target: set \`via\`, \`viaFrom\`, \`out\`, \`discard\` or \`toVrf\``,
      });
    } else if (ways > 1) {
      ctx.addIssue({
        code: "custom",
        message: `the route to ${route.to} has more than one target: keep a next hop, \`discard\` or \`toVrf\``,
      });
    }
    if (route.onLink && !(route.via && route.out)) {
      ctx.addIssue({ code: "custom", path: ["onLink"], message: "`onLink` needs both `via` and `out`" });
    }
    checkNextHopFamily(route, ctx);
  });

export type StaticRoute = z.output<typeof staticRouteSchema>;

export const learnedRouteSchema = z
  .strictObject({
    to: prefixField,
    via: addressField.optional(),
    out: nameField.optional(),
    vrf: nameField.optional(),
    protocol: z
      .string()
      .regex(/^[a-z][a-z0-9-]{0,30}$/, "a protocol must be a lower-case word, such as ospf or bgp"),
    distance: distanceField.optional(),
    metric: metricField.optional(),
    lostAfterMs: millisecondsField.optional(),
    /** How long after its neighbour it is there again (rule 10.5). */
    backAfterMs: millisecondsField.optional(),
  })
  .superRefine((route, ctx) => {
    if (!route.via && !route.out) {
      ctx.addIssue({ code: "custom", message: `the learned route to ${route.to} needs via or out` });
    }
    if (["static", "connected", "local"].includes(route.protocol)) {
      ctx.addIssue({
        code: "custom",
        path: ["protocol"],
        message: `"${route.protocol}" is not a protocol that routes are learned from`,
      });
    }
    checkNextHopFamily(route, ctx);
  });

export type LearnedRoute = z.output<typeof learnedRouteSchema>;

export type RouteKind = "next-hop" | "discard" | "to-vrf";

function routeKind(route: StaticRoute): RouteKind {
  if (route.discard) return "discard";
  return route.toVrf ? "to-vrf" : "next-hop";
}

/**
 * A static route's identity within its device or policy table: VRF, destination, next hop, outgoing
 * interface and kind. Two routes of one identity are an error.
 */
export function routeIdentity(route: StaticRoute): string {
  const hop = route.viaFrom ? `from:${route.viaFrom}` : (route.via ?? "-");
  return [route.vrf ?? "main", route.to, hop, route.out ?? "-", routeKind(route)].join(" ");
}

/** "172.20.0.0/16 via 172.20.0.2 out core": a route as a person would name it. */
export function describeRoute(
  route: Pick<StaticRoute, "to" | "via" | "viaFrom" | "out" | "discard" | "toVrf" | "vrf">,
): string {
  const parts = [route.to];
  if (route.via) parts.push(`via ${route.via}`);
  if (route.viaFrom) parts.push(`via the gateway of ${route.viaFrom}`);
  if (route.out) parts.push(`out ${route.out}`);
  if (route.discard) parts.push(route.discard === "drop" ? "discarded" : "rejected");
  if (route.toVrf) parts.push(`to VRF ${route.toVrf}`);
  if (route.vrf && route.vrf !== "main") parts.push(`in VRF ${route.vrf}`);
  return parts.join(" ");
}
