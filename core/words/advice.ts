import type { DropCode } from "../walk/index.ts";

/** What to do about a packet that dies so, in a sentence. */
const advice: Record<DropCode, string> = {
  "no-route": "Add a route to the destination on that device, or a default route.",
  discarded: "A discard route matches. Add a more specific route, or remove the discard route.",
  rejected: "A reject route matches. Add a more specific route, or remove the reject route.",
  "half-session":
    "Route both directions through the same firewall, or let both members of the pair share their sessions.",
  "neighbour-silent":
    "The next hop does not respond, but the route stays active. Add a watch that withdraws it, and a standby route.",
  "link-dead":
    "The failure is not detected: the interface stays up. Probe a target beyond it so that the route is withdrawn.",
  looped: "The routes of these devices point at each other. On one of them, add the route that leads out.",
  "policy-denied": "Allow it between these zones, or route it another way.",
  "no-state": "Route both directions through the same firewall, or allow the flow from this side too.",
  "return-path": "Route the return path out of the interface that it came in by, or relax the check.",
  "private-at-internet": "Translate the source at the exit, or add the route that keeps it inside.",
  "host-not-listening": "Check the address, and whether its device and link are up.",
  "forwarding-off": "Turn forwarding on for that family.",
  "source-not-own": "Choose one of the sender's own addresses.",
  "no-source": "Give the device an address of that family.",
  "device-down": "Restore the device.",
  "link-local": "Name the interface after the address, or use addresses that routers forward.",
  "beyond-outline": "Import that device's configuration, or model the network behind it.",
  "hop-limit": "Shorten the path: no packet passes more than 63 routers.",
  "virtual-not-accepted": "Send to an address of the router itself, or set accept on the virtual router.",
  "wrong-device": "Two devices share that address, or translation changes it. Give each its own.",
};

export function adviceFor(code: DropCode): string {
  return advice[code];
}
