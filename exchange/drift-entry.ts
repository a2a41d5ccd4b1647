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

/** What tells a difference from every other. */
export const keyOf = ({
  device,
  kind,
  subject,
  text,
}: Record<"device" | "kind" | "subject" | "text", string>) => `${device} ${kind} ${subject} ${text}`;
