import type { Plan } from "../../core/plan/index.ts";
import { planOf } from "./plans.ts";

/** A guest network behind a firewall that denies it; with the line `main` failed, a second router lets it around. */
export function guests({ open = false, way = true } = {}): Plan {
  return planOf({
    devices: [
      {
        id: "guest",
        role: "host",
        interfaces: [{ name: "e", addresses: ["10.7.0.10/24"] }],
        routes: [{ to: "0.0.0.0/0", via: "10.7.0.1" }],
      },
      {
        id: "edge",
        role: "router",
        interfaces: [
          { name: "lan", addresses: ["10.7.0.1/24"] },
          { name: "main", addresses: ["10.7.1.1/30"] },
          { name: "other", addresses: ["10.7.2.1/30"] },
        ],
        routes: [
          { to: "10.9.0.0/24", via: "10.7.1.2" },
          ...(way ? [{ to: "10.9.0.0/24", via: "10.7.2.2", distance: 20 }] : []),
        ],
      },
      {
        id: "wall",
        role: "firewall",
        profile: "zone-firewall",
        interfaces: [
          { name: "in", zone: "guests", addresses: ["10.7.1.2/30"] },
          { name: "servers", zone: "servers", addresses: ["10.9.0.1/24"] },
          { name: "back", zone: "staff", addresses: ["10.7.2.2/30"] },
        ],
        policy: {
          default: "allow",
          rules: open ? [] : [{ from: ["guests"], to: ["servers"], action: "deny" }],
        },
        routes: [{ to: "10.7.0.0/24", via: "10.7.2.1" }],
      },
      {
        id: "server",
        role: "host",
        interfaces: [{ name: "e", addresses: ["10.9.0.20/24"] }],
        routes: [{ to: "0.0.0.0/0", via: "10.9.0.1" }],
      },
    ],
    links: [
      { id: "lan", ends: ["guest/e", "edge/lan"] },
      { id: "main", ends: ["edge/main", "wall/in"] },
      { id: "other", ends: ["edge/other", "wall/back"] },
      { id: "servers", ends: ["wall/servers", "server/e"] },
    ],
    flows: [{ id: "blocked", from: "guest", to: "server", expect: { verdict: "denied" } }],
  });
}
