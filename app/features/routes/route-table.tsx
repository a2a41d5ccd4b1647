import { createColumnHelper } from "@tanstack/react-table";
import { useMemo } from "react";
import { Link, useNavigate } from "react-router";
import { LinkedSentence } from "../../plan/linked-sentence.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import type { NetworkRoute } from "../../queries/routes.ts";
import { deviceHref, withParam } from "../../search/links.ts";
import type { RouteFilter } from "../../search/route-filter.ts";
import { StatePill } from "../../ui/state-pill.tsx";
import { DataTable } from "../../ui/table.tsx";

const column = createColumnHelper<NetworkRoute>();

function leadsTo(route: NetworkRoute): string {
  if (route.discard) return route.discard === "drop" ? "discard" : "reject";
  if (route.toVrf) return `VRF ${route.toVrf}`;
  return route.source === "local" ? "itself" : "attached";
}

/** The columns as data, one after the other; longer than a screen because there are that many. */
function useColumns() {
  const { planId, params, labels } = usePlan();
  return useMemo(() => {
    const lookup = (device: string, text: string) => deviceHref(planId, device, params, { lookup: text });
    return [
      column.accessor("to", {
        header: "destination",
        size: 170,
        cell: ({ row: { original: route } }) => (
          <>
            <Link className="addr whitespace-nowrap font-semibold" to={lookup(route.device, route.to)}>
              {route.to}
            </Link>
            {route.winner && <span className="block text-ink-2">longest match</span>}
          </>
        ),
      }),
      column.accessor("device", {
        header: "device",
        size: 130,
        cell: ({ getValue }) => {
          const label = labels.devices.get(getValue()) ?? getValue();
          return (
            <span className="block truncate" title={label}>
              <Link className="name-link" to={deviceHref(planId, getValue(), params)}>
                {label}
              </Link>
            </span>
          );
        },
      }),
      column.accessor("table", { header: "table", size: 60, cell: ({ getValue }) => getValue() || "main" }),
      column.accessor("state", {
        header: "state",
        size: 84,
        cell: ({ getValue }) => <StatePill state={getValue()} />,
      }),
      column.accessor("source", { header: "source", size: 84 }),
      column.accessor("via", {
        header: "next hop",
        size: 146,
        cell: ({ row: { original: route } }) =>
          route.via ? (
            <Link className="addr" to={lookup(route.device, route.via)}>
              {route.via}
            </Link>
          ) : (
            leadsTo(route)
          ),
      }),
      column.accessor("out", {
        header: "interface",
        size: 90,
        cell: ({ row: { original: route } }) => {
          const name = route.out ?? route.leavesBy ?? "";
          return (
            <span className="addr block truncate" title={name}>
              {name}
            </span>
          );
        },
      }),
      column.accessor("distance", {
        header: "distance",
        size: 66,
        cell: ({ getValue }) => getValue() ?? "–",
      }),
      column.accessor("metric", { header: "metric", size: 56 }),
      column.display({
        id: "because",
        header: "reason",
        size: 200,
        cell: ({ row: { original: route } }) =>
          route.reason && (
            <span className="text-ink-2">
              <LinkedSentence text={route.reason.text} here={route.device} />
            </span>
          ),
      }),
    ];
  }, [planId, params, labels]);
}

export const columnNames = [
  { value: "table", text: "table" },
  { value: "source", text: "source" },
  { value: "out", text: "interface" },
  { value: "distance", text: "distance" },
  { value: "metric", text: "metric" },
  { value: "because", text: "reason" },
];

/** Every route of the network that the filter lets through, one line each. */
export function RouteTable({ routes, filter }: { routes: readonly NetworkRoute[]; filter: RouteFilter }) {
  const { params } = usePlan();
  const navigate = useNavigate();
  const columns = useColumns();
  const sort = (id: string, desc: boolean) =>
    navigate(withParam(params, "sort", `${desc ? "-" : ""}${id}`), { preventScrollReset: true });
  return (
    <DataTable
      label="Routes"
      columns={columns as Parameters<typeof DataTable<NetworkRoute>>[0]["columns"]}
      rows={routes}
      keyOf={(route, index) => `${index} ${route.device} ${route.to} ${route.via} ${route.out}`}
      sorting={{ id: filter.sort, desc: filter.descending }}
      onSort={sort}
      hidden={params.getAll("hide")}
    />
  );
}
