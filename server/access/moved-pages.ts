/** Addresses of earlier versions and where each page is now, as route patterns. Queries are kept. */
export const movedPages: Readonly<Record<string, string>> = {
  "/record": "/audit-log",
  "/record/rows": "/audit-log/rows",
  "/plans/:plan/exchange": "/plans/:plan/import",
  "/plans/:plan/exchange/devices": "/plans/:plan/polling",
  "/plans/:plan/exchange/rebuild": "/plans/:plan/topology",
  "/plans/:plan/exchange/drift": "/plans/:plan/drift",
  "/plans/:plan/exchange/out": "/plans/:plan/export",
  "/plans/:plan/desk": "/plans/:plan/add-routes",
  "/plans/:plan/outages": "/plans/:plan/failures",
  "/plans/:plan/time": "/plans/:plan/timeline",
  "/plans/:plan/report": "/plans/:plan/failure-report",
  "/plans/:plan/changes/words": "/plans/:plan/changes/templates",
  "/plans/:plan/book": "/plans/:plan/network-report",
};

/**
 * Where a page of an earlier version is now; null if the address is not one of those.
 * @param path without the query
 */
export function movedTo(path: string): string | null {
  const [, plan] = /^\/plans\/([^/]+)\//.exec(path) ?? [];
  const pattern = plan === undefined ? path : path.replace(`/plans/${plan}/`, "/plans/:plan/");
  const target = Object.hasOwn(movedPages, pattern) ? movedPages[pattern] : undefined;
  return target?.replace(":plan", () => plan ?? "") ?? null;
}
