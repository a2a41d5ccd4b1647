import type { Dismissal } from "../core/plan/index.ts";

/** How a device and the plan differ in one thing. */
export interface DriftEntry {
  device: string;
  kind:
    | "device-unknown"
    | "route-missing"
    | "route-extra"
    | "route-differs"
    | "route-not-in-use"
    | "route-in-use"
    | "interface-missing"
    | "interface-extra"
    | "address-missing"
    | "address-extra"
    | "interface-state"
    | "virtual-missing"
    | "virtual-extra"
    | "virtual-differs"
    | "virtual-state";
  /** The route's destination, or the interface. */
  subject: string;
  planned: unknown;
  seen: unknown;
  text: string;
}

/** A difference that is ignored permanently. */
export interface IgnoredDrift extends DriftEntry {
  readonly reason: string;
}

/** The dismissal in the plan that ignores a difference, without its reason. */
export function ignoringOf({
  device,
  kind,
  subject,
  text,
}: Pick<DriftEntry, "device" | "kind" | "subject" | "text">): Omit<Dismissal, "reason"> {
  const what = `${kind} ${subject} ${text}`;
  // A dismissal names devices of the plan alone.
  return kind === "device-unknown"
    ? { code: "drift", subject: `${device} ${what}`.slice(0, 2000) }
    : { code: "drift", device, subject: what.slice(0, 2000) };
}

/** What tells a difference from every other. */
export const keyOf = ({
  device,
  kind,
  subject,
  text,
}: Record<"device" | "kind" | "subject" | "text", string>) => `${device} ${kind} ${subject} ${text}`;
