/** Which routes of the whole network are looked at, and in which order; as a page's address says it. */
export interface RouteFilter {
  /** An address, a prefix, a next hop, or a part of a device's name or a note; "" for all. */
  text: string;
  /** How a route's destination must relate to a typed prefix: equal, containing it, or inside it. */
  relation: "exact" | "covering" | "covered";
  states: string[];
  sources: string[];
  device: string;
  sort: RouteColumn;
  descending: boolean;
}

export const routeColumns = [
  "to",
  "device",
  "table",
  "state",
  "source",
  "via",
  "out",
  "distance",
  "metric",
  "because",
] as const;
export type RouteColumn = (typeof routeColumns)[number];

const relations = ["exact", "covering", "covered"] as const;

/** Reads the filter from an address; missing parameters match everything. */
export function routeFilterOf(params: URLSearchParams): RouteFilter {
  const sort = params.get("sort") ?? "";
  const descending = sort.startsWith("-");
  const column = descending ? sort.slice(1) : sort;
  return {
    text: params.get("find")?.trim() ?? "",
    relation: relations.find((relation) => relation === params.get("relation")) ?? "covered",
    states: params.getAll("state"),
    sources: params.getAll("source-of-route"),
    device: params.get("only") ?? "",
    sort: routeColumns.find((name) => name === column) ?? "to",
    descending,
  };
}
