import type pg from "pg";
import { formatPrefix, networkOf, parseInterfaceAddress } from "../core/address/index.ts";
import type { Plan } from "../core/plan/index.ts";
import { database } from "./pool.ts";

const sql = {
  /** plan id */
  clearRoutes: "delete from route_index where plan = $1",
  /** plan id, then one array a column */
  insertRoutes: `
    insert into route_index (plan, device, vrf, policy_table, destination, next_hop, out, kind)
    select $1, * from unnest($2::text[], $3::text[], $4::text[], $5::cidr[], $6::inet[], $7::text[], $8::text[])`,
  /** an address or prefix, how many, plans or null for all: routes whose destination holds it or lies within it, or whose next hop lies within it */
  searchRoutes: `
    select i.plan::text, p.name, i.device, i.vrf, i.policy_table as "policyTable", i.destination::text,
           host(i.next_hop) as "nextHop", i.out, i.kind,
           case when i.destination >>= $1::inet then 'holds' when i.destination << $1::inet then 'within' else 'next-hop' end as relation
    from route_index i join plan p on p.id = i.plan and p.deleted_at is null
    where (i.destination && $1::inet or i.next_hop <<= $1::inet) and ($3::bigint[] is null or i.plan = any($3::bigint[]))
    order by
      -- Defaults hold everything: they come last, so that they push nothing out that says more.
      case when i.destination >>= $1::inet and masklen(i.destination) > 0 then 0
           when i.next_hop <<= $1::inet then 1 when i.destination << $1::inet then 2 else 3 end,
      masklen(i.destination) desc, p.name, i.device
    limit $2`,
} as const;

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

/** Replaces the index of the plan's route destinations. */
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
  /** Whether the destination contains the address, lies within the prefix, or only the next hop matches. */
  relation: "holds" | "within" | "next-hop";
}

/** Routes that one search lists at most. */
export const MAX_HITS = 200;

/** Routes of all plans that have to do with an address or prefix, the longest match first, and whether there are more. */
export async function searchRoutes(
  prefix: string,
  plans: readonly string[] | null = null,
): Promise<{ hits: RouteHit[]; more: boolean }> {
  const { rows } = await database().query<RouteHit>(sql.searchRoutes, [prefix, MAX_HITS + 1, plans]);
  return { hits: rows.slice(0, MAX_HITS), more: rows.length > MAX_HITS };
}
