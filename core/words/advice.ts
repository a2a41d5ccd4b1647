import type { DropCode } from "../forwarding/index.ts";

/** What to do about a packet that dies so, in a sentence. */
const advice: Record<DropCode, string> = {
  "no-route": "Write a route there on that device, or a default.",
  discarded: "A discard route holds it: write a more specific route before it, or take the discard away.",
  rejected: "A reject route holds it: write a more specific route before it, or take the reject away.",
  "neighbour-silent":
    "The route stays active although nobody answers: let a watch withdraw it, and have another stand by.",
  "link-dead":
    "Nobody notices, for the interface stays up: watch something beyond it, and withdraw the route.",
  looped: "The routes of these devices face each other: on one of them write the route that leads out.",
  "policy-denied": "Allow it between these zones, or lead it another way.",
  "no-state": "Lead both ways through the same firewall, or allow the flow from this side too.",
  "return-path": "Lead the return path out of the interface that it came in by, or loosen the check.",
  "private-at-internet": "Translate the source where it leaves, or write the route that keeps it inside.",
  "host-not-listening": "See whether the address is right, and whether its device and its link are up.",
  "forwarding-off": "Turn forwarding on for that family.",
  "source-not-own": "Choose one of the sender's own addresses.",
  "no-source": "Give the device an address of that family.",
  "device-down": "Restore the device.",
  "link-local": "Name the interface after the address, or use addresses that routers forward.",
  "beyond-outline": "Read what that device itself says, or draw what is behind it: then this is known.",
  "hop-limit": "Shorten the way: no packet passes more than 63 routers.",
  "virtual-not-accepted":
    "Send to an address of the router itself, or let the virtual router accept what is sent to it.",
  "wrong-device": "Two devices share that address, or translation turns it to another: give each its own.",
};

export function adviceFor(code: DropCode): string {
  return advice[code];
}
