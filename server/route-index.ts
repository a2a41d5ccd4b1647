import type pg from "pg";
import { formatPrefix, networkOf, parseInterfaceAddress } from "../core/address/index.ts";
import type { Plan } from "../core/plan/index.ts";
import { database } from "./pool.ts";
import { sql } from "./sql.ts";

interface IndexRow {
  device: string;
  vrf: string;
  policyTable: string | null;
  destination: string;
  nextHop: string | null;
  out: string | null;
  kind: "static" | "learned" | "connected";
}

function rowsOf(plan: Plan): IndexRow[] {
  return plan.devices.flatMap((device) => {
    const row = (
      route: { to: string; via?: string; out?: string; vrf?: string },
      kind: IndexRow["kind"],
      policyTable: string | null = null,
    ): IndexRow => ({
      device: device.id,
      vrf: route.vrf ?? "main",
      policyTable,
      destination: route.to,
      nextHop: route.via ?? null,
      out: route.out ?? null,
      kind,
    });
    const connected = device.interfaces.flatMap((port) =>
      port.addresses.flatMap((text) => {
        const read = parseInterfaceAddress(text);
        if (!read) return [];
        const to = formatPrefix({ address: networkOf(read.address, read.length), length: read.length });
        return [row({ to, vrf: port.vrf, out: port.name }, "connected")];
      }),
    );
    return [
      ...connected,
      ...device.routes.map((route) => row(route, "static")),
      ...device.learned.map((route) => row(route, "learned")),
      ...device.policyTables.flatMap((table) =>
        table.routes.map((route) => row(route, "static", table.name)),
      ),
    ];
  });
}

/** Writes where the plan's routes lead, in place of what stood there before. */
export async function indexRoutes(client: pg.PoolClient, id: string, plan: Plan) {
  const rows = rowsOf(plan);
  await client.query(sql.clearRoutes, [id]);
  const column = <K extends keyof IndexRow>(key: K) => rows.map((row) => row[key]);
  await client.query(sql.insertRoutes, [
    id,
    column("device"),
    column("vrf"),
    column("policyTable"),
    column("destination"),
    column("nextHop"),
    column("out"),
    column("kind"),
  ]);
}

export interface RouteHit extends IndexRow {
  plan: string;
  name: string;
  /** Whether the destination holds what was asked for, lies within it, or only the next hop does. */
  relation: "holds" | "within" | "next-hop";
}

/** Routes that one search lists at most. */
export const MOST_HITS = 200;

/** Routes of all plans that have to do with an address or prefix, the longest match first, and whether there are more. */
export async function searchRoutes(
  prefix: string,
  plans: readonly string[] | null = null,
): Promise<{ hits: RouteHit[]; more: boolean }> {
  const { rows } = await database().query<RouteHit>(sql.searchRoutes, [prefix, MOST_HITS + 1, plans]);
  return { hits: rows.slice(0, MOST_HITS), more: rows.length > MOST_HITS };
}
