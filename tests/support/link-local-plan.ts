import type { Plan } from "../../core/plan/index.ts";
import { planOf } from "./plans.ts";

/** A host h that has a link-local address alone, a router q before it, and a router t behind: no packet of h may pass q. */
export function linkLocalPlan(flows: readonly object[] = []): Plan {
  return planOf({
    devices: [
      {
        id: "h",
        role: "host",
        interfaces: [{ name: "e", addresses: ["fe80::5/64"] }],
        routes: [{ to: "::/0", via: "fe80::6", out: "e" }],
      },
      {
        id: "q",
        role: "router",
        interfaces: [
          { name: "e", addresses: ["fe80::6/64"] },
          { name: "f", addresses: ["2001:db8:2::1/64"] },
        ],
      },
      { id: "t", role: "router", interfaces: [{ name: "e", addresses: ["2001:db8:2::2/64"] }] },
    ],
    links: [
      { id: "x", ends: ["h/e", "q/e"] },
      { id: "y", ends: ["q/f", "t/e"] },
    ],
    flows: [...flows],
  });
}
